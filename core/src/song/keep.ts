import { atOnce, inPieces, whole, type Pieces } from '../maths';
import { byPlace, isInOrder, noteAsTaken, takeOf } from './look';
import { changedNote, makeNote, type Note } from './note';
import type { Part } from './song';
import type { Treatment } from './treatment';

/** Where the notes of a part sound after its treatment: columns, a row a note. */
export interface Corrected {
  /** Ticks. */
  readonly now: ArrayLike<number>;
  readonly nowEnd: ArrayLike<number>;
  readonly velocity: ArrayLike<number>;
  /** 1 for a silent one: the softer of a double. */
  readonly silent: ArrayLike<number>;
}

/**
 * Makes the corrected places of some notes their own; each keeps its take.
 * @param indices of the notes in the part
 * @param alone the notes leave the treatment, which goes on over the others; else their exceptions stay
 */
export function keepNotes(part: Part, indices: ArrayLike<number>, alone: boolean, corrected: Corrected): Note[] {
  return atOnce(keepNotesPieces(part, indices, alone, corrected));
}

/** {@link keepNotes} of very many notes, in pieces. */
export function* keepNotesPieces(
  part: Part,
  indices: ArrayLike<number>,
  alone: boolean,
  { now, nowEnd, velocity, silent }: Corrected,
): Pieces<Note[]> {
  const kept = new Array<Note>(indices.length);
  yield* inPieces(indices.length, (from, to) => {
    for (let k = from; k < to; k++) {
      const i = indices[k];
      const start = whole(now[i]);
      kept[k] = keptNote(part.notes[i], start, whole(nowEnd[i] - start), velocity[i], silent[i] === 1, alone);
    }
  });
  // Most often they are in their order: to see that takes far less than to sort them.
  return isInOrder(kept) ? kept : kept.sort(byPlace);
}

/** A note at the place where it sounds, with its take. */
function keptNote(note: Note, start: number, length: number, velocity: number, dropped: boolean, alone: boolean): Note {
  const { exception, order, unended } = note;
  // A moved note gives up its old place among the events at one tick.
  const on = order && start === note.start ? order[0] : null;
  const off = order && start + length === note.start + note.length ? order[1] : null;
  const left: Note['exception'] = dropped
    ? { kind: 'dropped' }
    : alone
      ? { kind: 'as-played' }
      : exception?.kind === 'pinned'
        ? { kind: 'pinned', start, length, velocity }
        : exception;
  const { take = note } = note;
  const same = take.start === start && take.length === length && take.velocity === velocity;
  const kept = makeNote(
    note.id,
    start,
    length,
    note.pitch,
    velocity,
    note.channel,
    note.release,
    same ? undefined : takeOf(note),
    left,
    on === null && off === null ? undefined : [on, off],
  );
  if (note.muted) kept.muted = note.muted;
  if (unended && length === note.length) kept.unended = unended;
  return kept;
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
