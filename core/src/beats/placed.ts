import type { Ms } from '../time';
import type { Places } from './feel';
import type { Onset } from './onsets';

/** An onset further from each place of its beat is at none. */
const NEAR: Ms = 55;

/** Where a sequence of beats puts the onsets of a take. */
export interface Placed {
  /** Places a beat. */
  readonly width: number;
  /** Which places of which beats are played: 1 or 0, beat by beat. */
  readonly played: Uint8Array;
  /** The place in {@link played} of each onset; −1 for one that is at none, or at one that is taken. */
  readonly at: Int32Array;
}

/** @param beats at least two, in ms, ascending */
export function placeOnsets(beats: Float64Array, onsets: readonly Onset[], places: Places): Placed {
  const width = places.length;
  const played = new Uint8Array(beats.length * width);
  const at = new Int32Array(onsets.length).fill(-1);
  let k = 0;
  onsets.forEach(({ ms }, i) => {
    while (k + 2 < beats.length && beats[k + 1] <= ms) k++;
    const period = beats[k + 1] - beats[k];
    let least = NEAR;
    // The beat that ends it is a place of it too.
    for (let p = 0; p <= width; p++) {
      const away = Math.abs(beats[k] + (p < width ? places[p][0] : 1) * period - ms);
      if (away >= least) continue;
      least = away;
      at[i] = k * width + p;
    }
    if (at[i] >= 0 && played[at[i]]) at[i] = -1;
    if (at[i] >= 0) played[at[i]] = 1;
  });
  return { width, played, at };
}
