import { median, medianAbsoluteDeviation, sortedQuantile } from '../maths';
import { sameTime, timeOf, type Song, type Part } from '../song';
import { addAmount, type TempoMap } from '../time';
import type { SongTime } from '../grid';
import { treatPart, type Assignment } from '../treatment';

/** How a player lies against a grid. Times in ms, early is negative; shares from 0 to 1. */
export interface OffsetSummary {
  readonly chords: number;
  readonly median: number;
  /** Between these lies the middle half of the offsets. */
  readonly lower: number;
  readonly upper: number;
  /** Median absolute deviation from the median: how even the playing is. */
  readonly spread: number;
  /** Median size of the offsets. */
  readonly typicalMiss: number;
  /** Shares of chords more than {@link ON_LINE_MS} early, more than that late, and in between. */
  readonly early: number;
  readonly late: number;
  readonly onLine: number;
}

/** Offsets up to this many ms count as on the line. */
export const ON_LINE_MS = 10;

/** Offsets of chords from their lines in ms, once the lag is taken away. */
export function chordOffsets(chords: Pick<Assignment, 'count' | 'place' | 'line'>, tempo: TempoMap): Float64Array {
  const offsets = new Float64Array(chords.count);
  for (let c = 0; c < chords.count; c++) offsets[c] = tempo.between(chords.line[c], chords.place[c]);
  return offsets;
}

/** Summary of offsets in ms; all zero for none. */
export function summarize(offsets: Float64Array): OffsetSummary {
  const chords = offsets.length;
  if (chords === 0) {
    return { chords, median: 0, lower: 0, upper: 0, spread: 0, typicalMiss: 0, early: 0, late: 0, onLine: 0 };
  }
  const sorted = Float64Array.from(offsets).sort();
  const early = offsets.filter((d) => d < -ON_LINE_MS).length / chords;
  const late = offsets.filter((d) => d > ON_LINE_MS).length / chords;
  return {
    chords,
    median: sortedQuantile(sorted, 0.5),
    lower: sortedQuantile(sorted, 0.25),
    upper: sortedQuantile(sorted, 0.75),
    spread: medianAbsoluteDeviation(offsets),
    typicalMiss: median(offsets.map(Math.abs)),
    early,
    late,
    onLine: 1 - early - late,
  };
}

/** Of a steady lean the quarter that leans least still leans this share of the median. */
const STEADY = 0.4;

/**
 * Whether offsets lean one way throughout. Those that lie all over have a median too, and so has a swing, whose
 * off-beats alone are late against straight lines: that is no lean.
 */
export function leansThroughout({ median: ms, lower, upper }: OffsetSummary): boolean {
  return ms < 0 ? upper <= STEADY * ms : ms > 0 && lower >= STEADY * ms;
}

const asPlayed = new WeakMap<Part, { time: SongTime; value: OffsetSummary }>();

/** How a part was played, against the lines of its own treatment; its exceptions' own settings count for their notes. */
export function partOffsets(part: Part, song: Song): OffsetSummary {
  const time = timeOf(song);
  const known = asPlayed.get(part);
  if (known && sameTime(known.time, time)) return known.value;
  const all = treatPart(part, song).groups.map(({ chords, treatment: { lag } }) => {
    // Lines are found after the lag is gone, but what was played is told with it.
    const place = lag.on ? chords.place.map((t) => addAmount(t, lag.amount, time.tempo)) : chords.place;
    return chordOffsets({ ...chords, place }, time.tempo);
  });
  const value = summarize(Float64Array.from(all.flatMap((a) => [...a])));
  asPlayed.set(part, { time, value });
  return value;
}

const corrected = new WeakMap<Part, { time: SongTime; value: OffsetSummary }>();

/** How a part lies after its treatment, against the lines of that treatment; the same object as long as it stays. */
export function correctedOffsets(part: Part, song: Song): OffsetSummary {
  const time = timeOf(song);
  const known = corrected.get(part);
  if (known && sameTime(known.time, time)) return known.value;
  const { groups, start } = treatPart(part, song);
  const all = groups.map(({ chords, members }) => {
    const place = Float64Array.from({ length: chords.count }, (_, c) => {
      const [from, to] = [chords.first[c], chords.first[c + 1]];
      if (to - from === 1) return start[members ? members[from] : from];
      return median(Float64Array.from({ length: to - from }, (_, i) => start[members ? members[from + i] : from + i]));
    });
    return chordOffsets({ ...chords, place }, time.tempo);
  });
  const value = summarize(Float64Array.from(all.flatMap((a) => [...a])));
  corrected.set(part, { time, value });
  return value;
}
