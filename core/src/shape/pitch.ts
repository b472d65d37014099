import { counted, type Track } from '../song';
import { problem } from './problem';
import { reshape, type Shaped } from './reshape';
import type { Taken } from './taken';

/** The steps of scales above their root, in semitones. */
export const SCALES = {
  major: [0, 2, 4, 5, 7, 9, 11],
  minor: [0, 2, 3, 5, 7, 8, 10],
  'harmonic minor': [0, 2, 3, 5, 7, 8, 11],
  dorian: [0, 2, 3, 5, 7, 9, 10],
  mixolydian: [0, 2, 4, 5, 7, 9, 10],
  'major pentatonic': [0, 2, 4, 7, 9],
  'minor pentatonic': [0, 3, 5, 7, 10],
  blues: [0, 3, 5, 6, 7, 10],
} as const;
export type ScaleName = keyof typeof SCALES;

/** Transposes notes. @param by semitones; refused where a note would leave the keyboard */
export function transpose(track: Track, taken: readonly Taken[], by: number): Shaped {
  if (!Number.isInteger(by)) return problem('Choose a whole number of semitones.');
  const off = taken.filter(({ note }) => note.pitch + by < 0 || note.pitch + by > 127).length;
  if (off > 0) {
    return problem(`${off === 1 ? 'One note' : `${off} notes`} would leave the keyboard. Choose fewer semitones.`);
  }
  const name = `Transpose ${counted(taken.length, 'note')} by ${by > 0 ? '+' : '−'}${Math.abs(by)}`;
  return reshape(name, track, taken, ({ note }) => ({ pitch: note.pitch + by }));
}

/** Moves notes to the nearest pitch of a scale, the lower of two. @param root 0 (C) to 11 (B) */
export function intoScale(track: Track, taken: readonly Taken[], root: number, scale: ScaleName): Shaped {
  const steps: readonly number[] = SCALES[scale];
  const isIn = (pitch: number) => steps.includes((((pitch - root) % 12) + 12) % 12);
  return reshape(`Move ${counted(taken.length, 'note')} into the scale`, track, taken, ({ note }) => {
    for (let away = 0; away <= 12; away++) {
      for (const pitch of [note.pitch - away, note.pitch + away]) {
        if (pitch >= 0 && pitch <= 127 && isIn(pitch)) return { pitch };
      }
    }
    return null;
  });
}

/** Gives notes one pitch. @param pitch 0 to 127 */
export function onePitch(track: Track, taken: readonly Taken[], pitch: number): Shaped {
  if (!Number.isInteger(pitch) || pitch < 0 || pitch > 127) return problem('Choose a key between 0 and 127.');
  return reshape(`Put ${counted(taken.length, 'note')} on one key`, track, taken, () => ({ pitch }));
}
