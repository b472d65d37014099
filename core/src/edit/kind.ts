import * as z from 'zod';
import type { Song } from '../song';

/** Why an edit does not fit a song, in a sentence for people. Nothing was changed. */
export interface EditProblem {
  readonly problem: string;
}

export function problem(text: string): EditProblem {
  return { problem: text };
}

export function isProblem(value: object): value is EditProblem {
  return 'problem' in value;
}

/** A song after an edit, and the edit that takes it back. */
export interface Changed<Inverse> {
  readonly song: Song;
  readonly inverse: Inverse;
}

/** What every edit has. */
export const base = {
  /** What people read: "Move 3 notes". */
  name: z.string().min(1),
  /** What the user did: 'draw', 'record', 'nudge'. What begins with `nudge` goes on with such a step just before. */
  how: z.string().min(1).max(80).optional(),
  /** When, in ms since 1970 (UTC). */
  at: z.number().min(0).optional(),
  /** Journals of earlier versions: it goes on with the step before, if that has its name and covers it. */
  joins: z.literal(true).optional(),
  /** What the song's next free id becomes, where the edit takes back one that used some. */
  nextId: z.int().min(0).optional(),
};

/** One kind of edit: what it looks like, what it does, and what takes it back. */
export interface EditKind<E, Inverse = E> {
  readonly schema: z.ZodType<E>;
  apply(song: Song, edit: E): Changed<Inverse> | EditProblem;
  /** Whether the inverse of a step of this kind takes back a further one as well: they can be one step. */
  covers?(inverse: Inverse, next: E): boolean;
}

/** Types a kind by its schema and its own inverse. */
export function kind<E, Inverse = E>(of: EditKind<E, Inverse>): EditKind<E, Inverse> {
  return of;
}
