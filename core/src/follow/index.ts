export * from './follow';
export type { PlayerModel, Progress, Wander } from './model';
