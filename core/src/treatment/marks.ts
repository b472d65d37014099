import type { Part } from '../song';

/** Whether any of some notes has something that most notes do not have: what is not there need not be looked for. */
export interface Marks {
  readonly exceptions: boolean;
  readonly pins: boolean;
  /** Muted notes, and doubles that Keep left silent. */
  readonly silent: boolean;
  readonly takes: boolean;
}

const known = new WeakMap<Part['notes'], Marks>();

/** What some of a part's notes have; found in one pass, and the same object as long as the notes do not change. */
export function marksOf({ notes }: Pick<Part, 'notes'>): Marks {
  let marks = known.get(notes);
  if (!marks) known.set(notes, (marks = look(notes)));
  return marks;
}

function look(notes: Part['notes']): Marks {
  const marks = { exceptions: false, pins: false, silent: false, takes: false };
  for (const { exception, muted, take } of notes) {
    if (exception) {
      marks.exceptions = true;
      if (exception.kind === 'pinned') marks.pins = true;
      else if (exception.kind === 'dropped') marks.silent = true;
    }
    if (muted) marks.silent = true;
    if (take) marks.takes = true;
  }
  return marks;
}
