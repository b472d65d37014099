import { hash3, normalLevels } from '../maths';

const OCTAVES = 9;
/** First of the hash properties that belong to the octaves. */
const PROPERTY = 64;

/**
 * A slowly wandering line with a 1/f spectrum: people's deviations from a click are correlated
 * over long ranges (Hennig et al. 2011, PLoS ONE 6:e26457). It is a sum of octaves of value
 * noise of equal amplitude, whose lattices start at 0 and double from the shortest, so that it
 * can be read at any place without reading what comes before.
 */
export interface Wander {
  readonly seed: number;
  readonly shortest: number;
  readonly cell: Float64Array;
  readonly left: Float64Array;
  readonly right: Float64Array;
}

/** @param shortest distance between the points of the finest lattice, in ticks */
export function makeWander(seed: number, shortest: number): Wander {
  return {
    seed,
    shortest,
    cell: new Float64Array(OCTAVES).fill(NaN),
    left: new Float64Array(OCTAVES),
    right: new Float64Array(OCTAVES),
  };
}

/** The line's height at a place, a standard normal number. */
export function wanderAt(drift: Wander, tick: number): number {
  const { seed, cell, left, right } = drift;
  let sum = 0;
  let length = drift.shortest;
  for (let octave = 0; octave < OCTAVES; octave++) {
    const at = tick / length;
    const index = Math.floor(at);
    if (index !== cell[octave]) {
      left[octave] = index === cell[octave] + 1 ? right[octave] : lattice(seed, index, octave);
      right[octave] = lattice(seed, index + 1, octave);
      cell[octave] = index;
    }
    // Weights whose squares add up to 1 keep the variance the same between lattice points.
    const share = at - index;
    const weight = share * share * (3 - 2 * share);
    const norm = Math.sqrt(weight * weight + (1 - weight) * (1 - weight));
    sum += (left[octave] * (1 - weight) + right[octave] * weight) / norm;
    length *= 2;
  }
  return sum / Math.sqrt(OCTAVES);
}

function lattice(seed: number, index: number, octave: number): number {
  return normalLevels()[hash3(seed, index, PROPERTY + octave) >>> 16];
}
