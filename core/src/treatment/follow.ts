import type { Grid, Lines, SongTime } from '../grid';

/** Lines that were chosen while following a player's drift. */
export interface Followed {
  /** Line of each chord in ticks. */
  readonly line: Float64Array;
}

export function followLines(place: Float64Array, lines: Lines, _time: SongTime, _grid: Grid): Followed {
  return { line: place.map((t) => lines.nearest(t)) };
}
