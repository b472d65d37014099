import type { Lines, SongTime } from '../grid';
import { VOICES, type NoteColumns } from './columns';

/** Chords as runs of neighbouring notes. */
export interface Chords {
  readonly count: number;
  /** Index of each chord's first note; one more entry than chords, the last is the number of notes. */
  readonly first: Int32Array;
  /** Median start of each chord, in ticks. */
  readonly place: Float64Array;
}

/** Largest share of the gap between lines that a chord may span, so that fast runs never chain into one. */
const WINDOW_OF_GAP = 0.4;

/**
 * Groups notes into chords. A chord's notes start within a window of its first start: the
 * smaller of `chordMs` and 0.4 of the gap between the lines there. A repeated pitch closes
 * the chord, before all that starts along with it: equal starts stay together. (Pianists' melody notes lead by about 30 ms: Goebl 2001, JASA 110:1.)
 * @param starts starts in ticks, ascending, as the lines are compared with them
 */
export function groupChords(
  columns: NoteColumns,
  starts: Float64Array,
  lines: Lines,
  time: SongTime,
  chordMs: number,
): Chords {
  const { count, voice: voices } = columns;
  const first = new Int32Array(count + 1);
  const place = new Float64Array(count);
  const seen = new Int32Array(VOICES).fill(-1);
  const { tempo } = time;
  const fixedWindow = tempo.constant ? chordMs / tempo.msPerTick[0] : -1;
  let chords = 0;
  let i = 0;
  while (i < count) {
    first[chords] = i;
    const begin = starts[i];
    place[chords] = begin;
    let j = i + 1;
    // Only where a second note is near enough is the window worth computing.
    const widest = fixedWindow >= 0 ? fixedWindow : tempo.shift(begin, chordMs) - begin;
    if (j < count && starts[j] - begin <= widest) {
      const window = Math.min(widest, WINDOW_OF_GAP * lines.gapAt(begin));
      seen[voices[i]] = chords;
      /** Where the run of equal starts that is being looked at began. */
      let run = i;
      while (j < count && starts[j] - begin <= window) {
        if (starts[j] !== starts[run]) run = j;
        const voice = voices[j];
        if (seen[voice] === chords && run > i) {
          j = run;
          break;
        }
        seen[voice] = chords;
        j++;
      }
      if (j > i + 1) place[chords] = chordMedian(starts, i, j);
    }
    chords++;
    i = j;
  }
  first[chords] = count;
  return { count: chords, first: first.subarray(0, chords + 1), place: place.slice(0, chords) };
}

/** A chord's place: the median of its starts; for an even count the mean of the middle two. */
export function chordMedian(starts: Float64Array, from: number, to: number): number {
  const middle = (from + to - 1) >> 1;
  return (to - from) % 2 === 1 ? starts[middle] : (starts[middle] + starts[middle + 1]) / 2;
}
