export * from './follow';
export { oracleLines } from './oracle';
export type { PlayerModel, Progress, Wander } from './model';
