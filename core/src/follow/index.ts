export { followAlong, followBeside, followLines, type Followed } from './follow';
export { sampleBlocks } from './sample';
export { oracleLines } from './oracle';
export type { PlayerModel, Progress, Wander } from './model';
