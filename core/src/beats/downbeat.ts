import type { Ms } from '../time';
import type { Onset } from './onsets';

/** Onsets this near a beat are on it. */
const NEAR: Ms = 60;

/**
 * Ranks which beat of the bar the first beat may be followed by as a downbeat: the one on which most is played, low,
 * loud and together.
 * @param perBar beats a bar
 * @returns indices of the beat that the first whole bar begins with, likeliest first
 */
export function rankDownbeats(beats: ArrayLike<Ms>, onsets: readonly Onset[], perBar: number): number[] {
  const weights = weightsOf(beats, onsets);
  const score = (phase: number) => {
    let [sum, count] = [0, 0];
    for (let k = phase; k < weights.length; k += perBar) {
      sum += weights[k];
      count++;
    }
    return count > 0 ? sum / count : 0;
  };
  const scores = Array.from({ length: perBar }, (_, phase) => score(phase));
  return scores.map((_, phase) => phase).sort((a, b) => scores[b] - scores[a]);
}

function weightsOf(beats: ArrayLike<Ms>, onsets: readonly Onset[]): Float64Array {
  const weights = new Float64Array(beats.length);
  let i = 0;
  for (let k = 0; k < beats.length; k++) {
    while (i < onsets.length && onsets[i].ms < beats[k] - NEAR) i++;
    for (let j = i; j < onsets.length && onsets[j].ms <= beats[k] + NEAR; j++) {
      const { notes, velocity, pitch } = onsets[j];
      weights[k] = Math.max(weights[k], Math.log2(1 + notes) + velocity / 64 + Math.max(0, 60 - pitch) / 18);
    }
  }
  return weights;
}
