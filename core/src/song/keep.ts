import { byPlace, takeOf } from './look';
import type { Note, Part } from './song';

/** Where a note sounds after its treatment. */
export interface Corrected {
  /** Ticks. */
  readonly start: number;
  readonly end: number;
  readonly velocity: number;
}

/**
 * Makes the corrected places of some notes their own; each keeps its take, and leaves its exception.
 * @param corrected the place of each note, asked by its index in the part
 */
export function keepNotes(part: Part, indices: Iterable<number>, corrected: (index: number) => Corrected): Note[] {
  return Array.from(indices, (i): Note => {
    const note = part.notes[i];
    const { start, end, velocity } = corrected(i);
    const { exception: _left, order: _order, unended: _unended, take: _take, ...rest } = note;
    const stayed = start === note.start && end === note.start + note.length;
    // A moved note gives up its old place among the events at one tick.
    const place = stayed ? { order: note.order, unended: note.unended } : {};
    const kept = { ...rest, ...defined(place), start, length: end - start, velocity };
    const take = takeOf(note);
    const same = take.start === start && take.length === kept.length && take.velocity === velocity;
    return same ? kept : { ...kept, take };
  }).sort(byPlace);
}

/** Which of a note's properties go back to the take. */
export interface TakeParts {
  readonly starts: boolean;
  readonly lengths: boolean;
  readonly velocities: boolean;
}

/** Brings notes back to their take: starts, lengths and velocities, each alone or together. */
export function returnToTake(notes: readonly Note[], which: TakeParts): Note[] {
  return notes
    .filter((n) => n.take)
    .map((note): Note => {
      const take = takeOf(note);
      const start = which.starts ? take.start : note.start;
      const length = which.lengths ? take.length : note.length;
      const velocity = which.velocities ? take.velocity : note.velocity;
      const { take: _take, ...rest } = note;
      const back = { ...rest, start, length, velocity };
      const whole = start === take.start && length === take.length && velocity === take.velocity;
      return whole ? back : { ...back, take };
    });
}

function defined<T extends object>(values: T): Partial<T> {
  return Object.fromEntries(Object.entries(values).filter(([, v]) => v !== undefined)) as Partial<T>;
}
