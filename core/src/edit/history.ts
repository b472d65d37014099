import type { Song } from '../song';
import { apply, type Edit } from './edit';

/** A song with what was done to it. Undo and redo never lose a step; a new edit clears what was undone. */
export interface History {
  readonly song: Song;
  /** What takes back the last edits, the newest last. */
  readonly undo: readonly Edit[];
  readonly redo: readonly Edit[];
}

/** Older steps are given up beyond this many. */
export const MAX_STEPS = 1000;

export function startHistory(song: Song): History {
  return { song, undo: [], redo: [] };
}

/** Does an edit. @throws EditError where it does not fit */
export function perform(history: History, edit: Edit): History {
  const { song, inverse } = apply(history.song, edit);
  return { song, undo: [...history.undo, inverse].slice(-MAX_STEPS), redo: [] };
}

/** Takes back the last edit; the same history where there is none. */
export function undo(history: History): History {
  const last = history.undo.at(-1);
  if (!last) return history;
  const { song, inverse } = apply(history.song, last);
  return { song, undo: history.undo.slice(0, -1), redo: [...history.redo, inverse] };
}

/** Does again what was taken back last; the same history where there is nothing. */
export function redo(history: History): History {
  const last = history.redo.at(-1);
  if (!last) return history;
  const { song, inverse } = apply(history.song, last);
  return { song, undo: [...history.undo, inverse], redo: history.redo.slice(0, -1) };
}
