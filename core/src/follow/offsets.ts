import type { Ms } from '../time';
import { Kept } from '../maths';
import { LEAST_GAP } from './model';

/** Offsets of chords from the lines they took, in time order. */
export interface Offsets {
  /** In steps. */
  readonly offset: Float64Array;
  /** To the chord before, in steps; at least {@link LEAST_GAP}. */
  readonly gap: Float64Array;
  readonly stepMs: Ms;
}

const kept = new Kept<Float64Array, number, Float64Array>();

/** Once for each step: what is worked out from the gaps is shared by all grids of that step. @param unit ticks a step */
function gapsOf(place: Float64Array, unit: number): Float64Array {
  return kept.of(place, unit, () =>
    place.map((t, i) => (i === 0 ? LEAST_GAP : Math.max(LEAST_GAP, (t - place[i - 1]) / unit))),
  );
}

/** @param place and @param line in ticks; @param unit ticks a step */
export function offsetsFrom(place: Float64Array, line: Float64Array, unit: number, stepMs: Ms): Offsets {
  return { offset: place.map((t, i) => (t - line[i]) / unit), gap: gapsOf(place, unit), stepMs };
}
