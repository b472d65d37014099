import { followLines, type Followed } from '../follow';
import type { Lines, SongTime } from '../grid';
import { outdate, type Quantize } from '../song';

/**
 * Finds the lines that follow a player, or says null while it does not know them yet. It depends on what it is given
 * and on nothing else.
 * @param place chords' places, ascending; the same array for the same chords
 */
export type Follower = (
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  settings: FollowSettings,
) => FollowedLines | null;

/** What the lines are made from. */
export type FollowSettings = Pick<Quantize, 'grid' | 'groove'> & {
  /** Chords of the track that the lines go by; null without one. */
  readonly reference: Float64Array | null;
};

/** The lines of a part's chords, and where the player's time was at each. */
export type FollowedLines = Pick<Followed, 'line' | 'drift'>;

/** Finds them at once, which takes a tenth of a second for two thousand chords. */
const atOnce: Follower = (place, lines, time, { grid }) => followLines(place, lines, time, grid);

let current: Follower = atOnce;

export function follower(): Follower {
  return current;
}

/**
 * Has the lines found elsewhere, such as in a worker, where nobody may wait for them. Once an answer is there,
 * `outdate` makes what was computed without it be computed anew.
 */
export function followBy(other: Follower | null): void {
  current = other ?? atOnce;
  outdate();
}
