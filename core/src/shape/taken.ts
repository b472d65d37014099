import { notesAt, takeOf, type Note, type Part, type Song, type Track } from '../song';
import type { Lines } from '../grid';
import type { Ticks } from '../time';
import { treatPart } from '../treatment';

/** The side of the compare switch on which notes are seen and taken. */
export type Side = 'played' | 'corrected';

/** A note to be shaped, with where it lies on the side on which it is seen. */
export interface Taken {
  readonly part: Part;
  readonly note: Note;
  readonly start: Ticks;
  readonly length: Ticks;
  readonly velocity: number;
}

/** The lines of a part: each goes by its own treatment. */
export type LinesOf = (part: Part) => Lines;

/** Some notes of a track by id, part by part in the order of their own places; ids of other tracks are left out. */
export function takeUp(song: Song, track: Track, ids: readonly number[], side: Side): Taken[] {
  const taken: Taken[] = [];
  for (const part of track.parts) {
    if (taken.length === ids.length) break;
    const at = notesAt(part.notes, ids);
    if (at.length === 0) continue;
    if (side === 'played') {
      for (const i of at) {
        const note = part.notes[i];
        const { start, length, velocity } = takeOf(note);
        taken.push({ part, note, start, length, velocity });
      }
      continue;
    }
    const { start, end, velocity } = treatPart(part, song);
    for (const i of at) {
      taken.push({ part, note: part.notes[i], start: start[i], length: end[i] - start[i], velocity: velocity[i] });
    }
  }
  return taken;
}

/** From the first start to the last end of some notes; null for none. Ticks. */
export function spanOf(taken: readonly Taken[]): { readonly from: Ticks; readonly to: Ticks } | null {
  if (taken.length === 0) return null;
  let from = Infinity;
  let to = 0;
  for (const { start, length } of taken) {
    from = Math.min(from, start);
    to = Math.max(to, start + length);
  }
  return { from, to };
}

/** Notes in the order of where they lie. */
export function inOrderOfPlace(taken: readonly Taken[]): Taken[] {
  return [...taken].sort((a, b) => a.start - b.start || a.note.pitch - b.note.pitch || a.note.id - b.note.id);
}
