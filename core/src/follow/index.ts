export { followAlong, followBeside, followLines } from './follow';
export { sampleBlocks } from './sample';
export { oracleLines } from './oracle';
export type { Followed, PlayerModel, Progress, Wander } from './model';
