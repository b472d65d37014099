import type { Kin, Note, Part } from '../song';

/** How many of some notes have what most notes do not have: what is not there need not be looked for. */
export interface Marks {
  readonly exceptions: number;
  readonly pins: number;
  /** Muted by a person. */
  readonly muted: number;
  /** Doubles that Keep left silent. */
  readonly dropped: number;
  readonly takes: number;
}

type Counts = { -readonly [K in keyof Marks]: number };

/** What some notes have; found in one pass. */
export function countMarks(notes: Part['notes']): Marks {
  const counts: Counts = { exceptions: 0, pins: 0, muted: 0, dropped: 0, takes: 0 };
  count(counts, notes, 0, notes.length, 1);
  return counts;
}

/** The same by a list that is nearly alike. */
export function marksLike(notes: readonly Note[], marks: Marks, { list: before, from, end, endHere }: Kin): Marks {
  const counts = { ...marks };
  if (before.length === notes.length) {
    for (let i = from; i < end; i++) {
      if (notes[i] === before[i]) continue;
      countOne(counts, before[i], -1);
      countOne(counts, notes[i], 1);
    }
    return counts;
  }
  count(counts, before, from, endHere, -1);
  count(counts, notes, from, end, 1);
  return counts;
}

function count(counts: Counts, notes: readonly Note[], from: number, to: number, by: 1 | -1): void {
  for (let i = from; i < to; i++) countOne(counts, notes[i], by);
}

function countOne(counts: Counts, { exception, muted, take }: Note, by: 1 | -1): void {
  if (exception) {
    counts.exceptions += by;
    if (exception.kind === 'pinned') counts.pins += by;
    else if (exception.kind === 'dropped') counts.dropped += by;
  }
  if (muted) counts.muted += by;
  if (take) counts.takes += by;
}
