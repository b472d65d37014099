import { atOnce, inPieces, type Pieces } from '../maths';
import { byPlace, noteAsTaken, takeOf } from './look';
import { changedNote, type Note } from './note';
import type { Part } from './song';
import type { Treatment } from './treatment';

/** Where a note sounds after its treatment. */
export interface Corrected {
  /** Ticks. */
  readonly start: number;
  readonly end: number;
  readonly velocity: number;
  /** Silent: the softer of a double. */
  readonly dropped: boolean;
}

/**
 * Makes the corrected places of some notes their own; each keeps its take.
 * @param alone the notes leave the treatment, which goes on over the others; else their exceptions stay
 * @param corrected the place of each note, asked by its index in the part
 */
export function keepNotes(
  part: Part,
  indices: readonly number[],
  alone: boolean,
  corrected: (index: number) => Corrected,
): Note[] {
  return atOnce(keepNotesPieces(part, indices, alone, corrected));
}

/** {@link keepNotes} of very many notes, in pieces. */
export function* keepNotesPieces(
  part: Part,
  indices: readonly number[],
  alone: boolean,
  corrected: (index: number) => Corrected,
): Pieces<Note[]> {
  const kept: Note[] = [];
  const keep = (i: number): Note => {
    const note = part.notes[i];
    const at = corrected(i);
    const { start, velocity } = at;
    const length = at.end - start;
    const { exception, order, unended } = note;
    // A moved note gives up its old place among the events at one tick.
    const on = start === note.start ? (order?.[0] ?? null) : null;
    const off = at.end === note.start + note.length ? (order?.[1] ?? null) : null;
    const left = at.dropped
      ? ({ kind: 'dropped' } as const)
      : alone
        ? ({ kind: 'as-played' } as const)
        : exception?.kind === 'pinned'
          ? ({ kind: 'pinned', start, length, velocity } as const)
          : exception;
    const take = takeOf(note);
    const same = take.start === start && take.length === length && take.velocity === velocity;
    return changedNote(note, {
      start,
      length,
      velocity,
      order: on === null && off === null ? undefined : [on, off],
      unended: length === note.length ? unended : undefined,
      exception: left,
      take: same ? undefined : take,
    });
  };
  yield* inPieces(indices.length, (from, to) => {
    for (let k = from; k < to; k++) kept.push(keep(indices[k]));
  });
  return kept.sort(byPlace);
}

/** The same treatment with every stage off; the values stay, to be switched on again. */
export function stagesOff(t: Treatment): Treatment {
  return {
    lag: { ...t.lag, on: false },
    quantize: { ...t.quantize, on: false },
    lengths: { ...t.lengths, on: false },
    push: { ...t.push, on: false },
    velocity: { ...t.velocity, on: false },
    humanize: { ...t.humanize, on: false },
    settle: t.settle,
  };
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
    .filter((n) => n.take || (which.starts && n.exception?.kind === 'dropped'))
    .map((note): Note => {
      const take = takeOf(note);
      const start = which.starts ? take.start : note.start;
      const length = which.lengths ? take.length : note.length;
      const velocity = which.velocities ? take.velocity : note.velocity;
      const whole = start === take.start && length === take.length && velocity === take.velocity;
      const back = whole ? noteAsTaken(note) : changedNote(note, { start, length, velocity, take });
      const silent = note.exception?.kind === 'dropped' && which.starts;
      return silent ? changedNote(back, { exception: undefined }) : back;
    });
}
