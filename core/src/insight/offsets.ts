import { atOnce, marked, median, medianAbsoluteDeviation, picked, quantiles, type Pieces } from '../maths';
import type { Part, Song } from '../song';
import { factsOf, type Facts } from '../treatment';

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

/** Summary of offsets in ms; all zero for none. */
export function summarize(offsets: Float64Array): OffsetSummary {
  return atOnce(summarizePieces(offsets));
}

/** {@link summarize} of very many offsets, in pieces. */
export function* summarizePieces(offsets: Float64Array): Pieces<OffsetSummary> {
  const chords = offsets.length;
  if (chords === 0) {
    return { chords, median: 0, lower: 0, upper: 0, spread: 0, typicalMiss: 0, early: 0, late: 0, onLine: 0 };
  }
  let early = 0;
  let late = 0;
  const sizes = new Float64Array(chords);
  for (let i = 0; i < chords; i++) {
    if (offsets[i] < -ON_LINE_MS) early++;
    else if (offsets[i] > ON_LINE_MS) late++;
    sizes[i] = Math.abs(offsets[i]);
  }
  yield;
  const [lower, middle, upper] = quantiles(offsets, [0.25, 0.5, 0.75]);
  yield;
  const spread = medianAbsoluteDeviation(offsets);
  yield;
  const typicalMiss = median(sizes);
  return {
    chords,
    median: middle,
    lower,
    upper,
    spread,
    typicalMiss,
    early: early / chords,
    late: late / chords,
    onLine: (chords - early - late) / chords,
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

/** How a part lies against the lines of its own treatment; its exceptions' own settings count for their notes. */
export interface PartOffsets {
  /** As it was played. */
  readonly played: OffsetSummary;
  /** As it is after its treatment. */
  readonly now: OffsetSummary;
}

const summaries = new WeakMap<Facts['chords'], PartOffsets>();

/** {@link partOffsets} of a part with very many notes, in pieces. */
export function* offsetsPieces(part: Part, song: Song): Pieces<PartOffsets> {
  const { chords } = factsOf(part, song);
  let both = summaries.get(chords);
  if (!both) {
    yield;
    const { before, after, treated } = chords;
    // Most often no note has left the treatment.
    const own = treated.includes(0) ? marked(treated) : null;
    const ownOf = (offsets: Float64Array) => (own ? picked(offsets, own) : offsets);
    const played = yield* summarizePieces(ownOf(before));
    yield;
    both = { played, now: yield* summarizePieces(ownOf(after)) };
    summaries.set(chords, both);
  }
  return both;
}

/** How a part was played and how it lies now, remembered as long as its chords stay. */
export function partOffsets(part: Part, song: Song): PartOffsets {
  return atOnce(offsetsPieces(part, song));
}
