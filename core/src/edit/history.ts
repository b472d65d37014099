import type { Song } from '../song';
import { applyEdit, covers, readEdit, type Edit } from './edit';
import { isProblem, problem, type EditProblem } from './kind';

/** A song with what was done to it. Undo and redo never lose a step; a new edit clears what was undone. */
export interface History {
  readonly song: Song;
  /** What takes back the last steps, the newest last. */
  readonly undo: readonly Edit[];
  readonly redo: readonly Edit[];
}

/** What can happen to a history. */
export type Act = 'do' | 'undo' | 'redo';

/** One thing that happened to a song: the edit that was applied, which for undo and redo was the one at hand. */
export interface Deed {
  readonly act: Act;
  readonly edit: Edit;
}

/** Older steps are given up beyond this many. */
export const MAX_STEPS = 1000;

export function startHistory(song: Song): History {
  return { song, undo: [], redo: [] };
}

/**
 * Does an edit, once it has passed its schema: what is on screen is what a reload shows. An edit that joins the step
 * before makes one step with it.
 */
export function doEdit(history: History, edit: Edit): History | EditProblem {
  const read = readEdit(edit);
  return isProblem(read) ? read : carryOut(history, { act: 'do', edit: read });
}

/** What undo would do next; null where there is nothing. */
export function undoing(history: History): Deed | null {
  const edit = history.undo.at(-1);
  return edit ? { act: 'undo', edit } : null;
}

/** What redo would do next; null where there is nothing. */
export function redoing(history: History): Deed | null {
  const edit = history.redo.at(-1);
  return edit ? { act: 'redo', edit } : null;
}

/** Takes back the last step; the same history where there is none. */
export function undo(history: History): History {
  const deed = undoing(history);
  const after = deed && carryOut(history, deed);
  return after && !isProblem(after) ? after : history;
}

/** Does again what was taken back last; the same history where there is nothing. */
export function redo(history: History): History {
  const deed = redoing(history);
  const after = deed && carryOut(history, deed);
  return after && !isProblem(after) ? after : history;
}

/** Carries out a deed whose edit was checked, as it happens or as a journal tells it. */
export function carryOut(history: History, { act, edit }: Deed): History | EditProblem {
  const done = applyEdit(history.song, edit);
  if (isProblem(done)) return done;
  const { song, inverse } = done;
  if (act === 'undo') {
    return { song, undo: history.undo.slice(0, -1), redo: [...history.redo, inverse] };
  }
  if (act === 'redo') return { song, undo: [...history.undo, inverse], redo: history.redo.slice(0, -1) };
  const last = history.undo.at(-1);
  const joins = edit.joins && last?.name === edit.name && history.redo.length === 0;
  if (joins && covers(last, edit)) return { ...history, song };
  return { song, undo: [...history.undo, inverse].slice(-MAX_STEPS), redo: [] };
}

/** A deed that was read from a journal, checked. */
export function readDeed(value: unknown): Deed | EditProblem {
  const { act, edit } = (value ?? {}) as { act?: unknown; edit?: unknown };
  if (act !== 'do' && act !== 'undo' && act !== 'redo') return problem('This is no step that this program knows.');
  const read = readEdit(edit);
  return isProblem(read) ? read : { act, edit: read };
}
