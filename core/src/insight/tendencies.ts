import { marked, picked, sortedQuantile } from '../maths';
import { FIRST_NOTE_EARLY, timeOf, type Part, type Song } from '../song';
import { factsOf } from '../treatment';
import { summarize, type OffsetSummary } from './offsets';

/** How one key of a part lies against its lines. */
export interface PitchTendency extends OffsetSummary {
  readonly pitch: number;
}

/** Where a player's time stood around a place. */
export interface DriftPoint {
  /** Ticks. */
  readonly tick: number;
  /** Median offset of the chords around it, and the middle half of them, in ms. */
  readonly ms: number;
  readonly lower: number;
  readonly upper: number;
}

/** Offsets in ms of each note of a part, as played, from its line; NaN for a note outside every treatment. */
export function noteOffsets(part: Part, song: Song): Float64Array {
  const { before, chord, chords } = factsOf(part, song);
  return before.map((ms, i) => (chords.treated[chord[i]] === 1 ? ms : NaN));
}

/** Tendencies key by key, lowest first: for a kit, each drum. */
export function pitchTendencies(part: Part, song: Song): PitchTendency[] {
  const byPitch = new Map<number, number[]>();
  noteOffsets(part, song).forEach((ms, i) => {
    if (Number.isNaN(ms)) return;
    const { pitch } = part.notes[i];
    const list = byPitch.get(pitch);
    if (list) list.push(ms);
    else byPitch.set(pitch, [ms]);
  });
  return [...byPitch]
    .sort((a, b) => a[0] - b[0])
    .map(([pitch, ms]) => ({ pitch, ...summarize(Float64Array.from(ms)) }));
}

/** Chords on each side of one that its running median takes in. */
const BESIDE = 12;
/** No picture shows more points of a curve. */
const MOST_POINTS = 1000;

/**
 * The player's time against the grid through the song: running medians and quartiles over 25 chords, at a thousand places
 * at most. In a longer take each place takes in more chords, so that all of them count.
 */
export function driftCurve(part: Part, song: Song): DriftPoint[] {
  const { played, before, treated } = factsOf(part, song).chords;
  const chords = marked(treated);
  const offsets = picked(before, chords);
  const step = Math.max(1, chords.length / MOST_POINTS);
  const beside = Math.max(BESIDE, Math.ceil(step));
  const places = Array.from({ length: Math.min(chords.length, MOST_POINTS) }, (_, k) => Math.floor(k * step));
  const quartiles = places.map((i) => {
    const around = offsets.slice(Math.max(0, i - beside), i + beside + 1).sort();
    return [0.5, 0.25, 0.75].map((share) => sortedQuantile(around, share));
  });
  // Running medians go in steps; their running mean is the smooth line that a wandering player draws.
  const [ms, lower, upper] = [0, 1, 2].map((k) =>
    runningMean(
      quartiles.map((q) => q[k]),
      Math.round(beside / step),
    ),
  );
  return places.map((i, k) => ({ tick: played[chords[i]], ms: ms[k], lower: lower[k], upper: upper[k] }));
}

/** The mean of each value with up to `half` before and after it. */
function runningMean(values: readonly number[], half: number): number[] {
  const sums = [0];
  for (const v of values) sums.push(sums[sums.length - 1] + v);
  return values.map((_, i) => {
    const from = Math.max(0, i - half);
    const to = Math.min(values.length, i + half + 1);
    return (sums[to] - sums[from]) / (to - from);
  });
}

/**
 * Displacements that are heard in an even sequence: from about 6 ms when notes are closer than 240 ms, else
 * from about 2.5 % of the interval (Friberg & Sundberg 1995, JASA 98:5).
 */
export function audibleFrom(intervalMs: number): number {
  return intervalMs < 240 ? 6 : 0.025 * intervalMs;
}

/** Share of offsets (in ms) that are audible, each against the interval to the chord before it. */
export function audibleShare(placeMs: ArrayLike<number>, offsets: ArrayLike<number>): number {
  if (offsets.length === 0) return 0;
  let heard = 0;
  for (let i = 0; i < offsets.length; i++) {
    const interval = i > 0 ? placeMs[i] - placeMs[i - 1] : Infinity;
    if (Math.abs(offsets[i]) >= audibleFrom(Math.min(interval, 2000))) heard++;
  }
  return heard / offsets.length;
}

/** The first note, where it lies a hair before its part's beginning and would be cut off there; else null. */
export function noteBeforePart(part: Part, song: Song): { id: number; ms: number } | null {
  const first = part.notes[0];
  if (!first || first.start >= part.start || part.start - first.start > FIRST_NOTE_EARLY * song.ppq) return null;
  return { id: first.id, ms: timeOf(song).tempo.between(first.start, part.start) };
}
