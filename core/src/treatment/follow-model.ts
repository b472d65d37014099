/** How a player plays, in steps of the grid's straight value. */
export interface PlayerModel {
  /** Standard deviation of a chord around the player's own time. */
  readonly sigma: number;
  /** Standard deviation by which that time wanders within a step; 0 for steady playing. */
  readonly tau: number;
}

/** Tells how far a long computation is, from 0 to 1; it may throw to end it. */
export type Progress = (share: number) => void;

/** Standard deviation of a player's drift at the first chord, once the lag is gone, in steps. */
export const FIRST_SPREAD = 0.3;
