import type { Ms } from '../time';

/** How a player's time wanders against the click. */
export type Wander =
  /** Not at all. */
  | { readonly kind: 'steady' }
  /**
   * Around a middle to which the player comes back, since the click is heard: `spread` is the standard deviation
   * around it, in steps; a share `1 − e^(−pull)` of the way back is gone each step.
   */
  | { readonly kind: 'returning'; readonly spread: number; readonly pull: number }
  /** Anywhere: each step adds a random one with standard deviation `tau`, in steps. */
  | { readonly kind: 'walk'; readonly tau: number };

/** How a player plays, in steps of the grid's straight value. */
export interface PlayerModel {
  /** Standard deviation of a chord around the player's own time. */
  readonly sigma: number;
  readonly wander: Wander;
}

/** Lines that were chosen while following a player, and what they say about the playing. */
export interface Followed {
  /** Line of each chord in ticks. */
  readonly line: Float64Array;
  /** Where the player's time was at each chord, lag and drift together; early is negative. */
  readonly drift: Float64Array;
  /** How far each chord is from where the other chords put the player's time, in ms; early is negative. */
  readonly apart: Float64Array;
  /** The middle of the drift. */
  readonly lag: Ms;
  /** Nine in ten chords' time is no further from the lag than this; 0 for steady playing. */
  readonly wander: Ms;
  /** Whether the wandering is more than a player's own unevenness, of which a part comes and goes slowly too. */
  readonly drifting: boolean;
  readonly model: PlayerModel;
  /** How well it explains the offsets from its lines: log density with the step as the unit, in nats. */
  readonly nats: number;
  /** Length of a step, typically. */
  readonly stepMs: Ms;
}

/** Tells how far a long computation is, from 0 to 1; it may throw to end it. */
export type Progress = (share: number) => void;

/** Standard deviations of a chord around the player's time that are looked at, in steps. */
export const SIGMAS: readonly number[] = [0.04, 0.06, 0.08, 0.11, 0.16, 0.22, 0.32];
/** Standard deviations of a random walk within a step. */
export const TAUS: readonly number[] = [0.01, 0.02, 0.04, 0.07];
/** Standard deviations around the middle of a player who comes back, in steps, and how strongly it draws. */
export const SPREADS: readonly number[] = [0.12, 0.25, 0.45];
export const PULLS: readonly number[] = [0.003, 0.01, 0.02, 0.05];

/** Evidence that a drift needs over steady playing, in nats: without it steady playing would be followed astray. */
export const AGAINST_DRIFT = 3;
/** Standard deviation of a drift that only walks at the first chord, once the lag is gone, in steps. */
export const FIRST_SPREAD = 0.3;
/** Lags are small: their standard deviation before anything is heard, and the furthest that is looked for. */
export const LAG_SD: Ms = 25;
export const MOST_LAG: Ms = 75;
/** Chords closer than this share of a step are so far apart for their drift. */
export const LEAST_GAP = 0.25;

/** Two chords may share a line only if they are this close (flams, double triggers), in steps. */
export const SHARE_WITHIN = 0.5;
/** Cost of what should not happen but cannot be ruled out, in nats. */
export const FORBIDDEN = 40;
/** Distances below it are rounding, in steps. */
export const EPSILON = 1e-6;
/**
 * Probabilities that are carried from chord to chord are left as they come until all of them together are below it, or
 * above one over it: that saves most of the logarithms.
 */
export const LEAST_TOTAL = 1e-60;
