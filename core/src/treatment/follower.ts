import type { Lines, SongTime } from '../grid';
import { outdate, type Quantize } from '../song';
import type { Ticks } from '../time';
import { followLines } from '../follow';

/**
 * Finds the lines that follow a player, or says null while it does not know them yet. It depends on what it is given
 * and on nothing else.
 * @param place chords' places, ascending; the same array for the same chords
 */
export type Follower = (
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  settings: Pick<Quantize, 'grid' | 'groove'>,
) => ArrayLike<Ticks> | null;

/** Finds them at once, which takes a tenth of a second for two thousand chords. */
const atOnce: Follower = (place, lines, time, { grid }) => followLines(place, lines, time, grid).line;

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
