import type { Facts } from '../treatment';

/** Indices of the notes of the chord that a note belongs to, itself among them. */
export function chordOf({ chord, chords }: Facts, index: number): Int32Array {
  const c = chord[index];
  return chords.notes.subarray(chords.first[c], chords.first[c + 1]);
}

/**
 * How much a note supports a root so many semitones below it: the unison, the fifth, the major third, the minor
 * seventh, the major second and the minor third. Parncutt 1988, Music Perception 6:1, 65–94; the weights are from memory.
 */
const SUPPORT: Readonly<Partial<Record<number, number>>> = { 0: 1, 7: 1 / 2, 4: 1 / 3, 10: 1 / 4, 2: 1 / 5, 3: 1 / 10 };

/** The root of some pitches as the pitch class that they support most, 0 (C) to 11; of equals that of the lowest note. */
export function chordRoot(pitches: readonly number[]): number {
  const classes = [...new Set(pitches.map((p) => p % 12))];
  const weight = (root: number) => classes.reduce((sum, c) => sum + (SUPPORT[(c - root + 12) % 12] ?? 0), 0);
  const bass = Math.min(...pitches) % 12;
  let best = bass;
  for (let root = 0; root < 12; root++) if (weight(root) > weight(best)) best = root;
  return best;
}
