import { atOnce, type Pieces } from '../maths';
import { hoursOf, MOST_HOURS, type Song } from '../song';
import { columnsPieces, lastEndOf } from '../treatment';
import {
  applyEdit,
  covers,
  editsIn,
  haveSameNotes,
  LONG_STEP,
  notesIn,
  readEdit,
  readEditPieces,
  type Edit,
} from './edit';
import { isProblem, problem, type EditProblem } from './kind';

/** Where the user was in the song: what undo gives back along with it. */
export interface Place {
  readonly track: string | null;
  readonly part: string | null;
  /** Own settings that were open, by id. */
  readonly set: string | null;
  /** Selected notes by id. */
  readonly selection: readonly number[];
}

/** A step that can be taken back or done again. */
export interface Step {
  /** What does that. */
  readonly edit: Edit;
  /** Where the user was before; unknown for steps of an earlier session. */
  readonly place?: Place;
}

/** A song with what was done to it. Undo and redo never lose a step; a new edit clears what was undone. */
export interface History {
  readonly song: Song;
  /** What takes back the last steps, the newest last. */
  readonly undo: readonly Step[];
  readonly redo: readonly Step[];
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
/** A repeated key goes on with its step if no more than this lies between two presses, in ms. */
export const GOES_ON_MS = 3000;

export function startHistory(song: Song): History {
  return { song, undo: [], redo: [] };
}

/**
 * Does an edit, once it has passed its schema: what is on screen is what a reload shows. A nudge that goes on with the
 * step before makes one step with it.
 */
export function doEdit(history: History, edit: Edit, place?: Place): History | EditProblem {
  return atOnce(doEditPieces(history, edit, place));
}

/** {@link doEdit} of an edit of very many notes, in pieces. */
export function* doEditPieces(history: History, edit: Edit, place?: Place): Pieces<History | EditProblem> {
  const read = yield* readEditPieces(edit);
  if (isProblem(read)) return read;
  yield;
  const after = carryOut(history, { act: 'do', edit: read }, place);
  if (isProblem(after)) return after;
  yield;
  // The end of the song is asked for, which its columns tell.
  if (notesIn(read) >= LONG_STEP) {
    for (const { parts } of after.song.tracks) for (const part of parts) yield* columnsPieces(part);
  }
  return tooLong(history.song, after.song) ?? after;
}

/** A song may be no longer than its file could be read again; one that is so already may become shorter. */
function tooLong(before: Song, after: Song): EditProblem | null {
  const hours = hoursOf(after, lastEndOf);
  if (hours <= MOST_HOURS || hours <= hoursOf(before, lastEndOf)) return null;
  return problem(`The song would last ${Math.ceil(hours)} hours; a song can last ${MOST_HOURS}.`);
}

/** What undo would do next; null where there is nothing. */
export function undoing(history: History): Deed | null {
  const step = history.undo.at(-1);
  return step ? { act: 'undo', edit: step.edit } : null;
}

/** What redo would do next; null where there is nothing. */
export function redoing(history: History): Deed | null {
  const step = history.redo.at(-1);
  return step ? { act: 'redo', edit: step.edit } : null;
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

/**
 * All that lies between the song as it is and as it was, or will be again, as one edit: for looking there without going.
 * @param by steps: back is negative
 * @returns null for no step, and where there are not so many
 */
export function wayTo(history: History, by: number): Edit | null {
  const steps = by < 0 ? history.undo : history.redo;
  const count = Math.abs(by);
  if (count === 0 || count > steps.length) return null;
  const edits = steps
    .slice(steps.length - count)
    .reverse()
    .flatMap(({ edit }) => editsIn(edit));
  return { kind: 'several', name: 'Look', edits };
}

/** A step that changes nothing: a name for the song as it is, to come back to. */
export function markEdit(name: string): Edit {
  return { kind: 'several', name, how: MARK, edits: [] };
}

/** How marks came about. */
export const MARK = 'mark';

/**
 * Carries out a deed whose edit was checked, as it happens or as a journal tells it.
 * @param place where the user is now
 */
export function carryOut(history: History, { act, edit }: Deed, place?: Place): History | EditProblem {
  const done = applyEdit(history.song, edit);
  if (isProblem(done)) return done;
  const { song, inverse } = done;
  const step: Step = place ? { edit: inverse, place } : { edit: inverse };
  if (act === 'undo') {
    return { song, undo: history.undo.slice(0, -1), redo: [...history.redo, step] };
  }
  if (act === 'redo') return { song, undo: [...history.undo, step], redo: history.redo.slice(0, -1) };
  const last = history.undo.at(-1);
  if (last && history.redo.length === 0 && goesOn(last.edit, edit)) {
    const back = takesBack(last.edit, edit, inverse);
    const { name, at } = edit;
    if (back === last.edit && at === undefined) return { ...history, song };
    // A key that is held goes on from its last press, and what it came to is what the step says.
    if (back) {
      const joined = { ...last, edit: { ...back, name, ...(at === undefined ? {} : { at }) } };
      return { ...history, song, undo: [...history.undo.slice(0, -1), joined] };
    }
  }
  return { song, undo: [...history.undo, step].slice(-MAX_STEPS), redo: [] };
}

/** What takes back the last step together with an edit that goes on with it; null where they are two steps. */
function takesBack(last: Edit, edit: Edit, inverse: Edit): Edit | null {
  if (covers(last, edit)) return last;
  // The same notes, which have come to the border of their part meanwhile: more than they has changed.
  if (edit.joins || !haveSameNotes(last, edit)) return null;
  const { name, how } = last;
  return {
    kind: 'several',
    name,
    ...(how === undefined ? {} : { how }),
    edits: [...editsIn(inverse), ...editsIn(last)],
  };
}

/** Whether an edit continues what the user was doing in the step before. */
function goesOn(last: Edit, edit: Edit): boolean {
  if (edit.joins) return last.name === edit.name;
  if (edit.how === undefined || edit.how !== last.how || !edit.how.startsWith(NUDGE)) return false;
  return (edit.at ?? 0) - (last.at ?? 0) <= GOES_ON_MS;
}

/** How the `how` of edits begins that go on with each other. */
export const NUDGE = 'nudge';

/** A deed that was read from a journal, checked. */
export function readDeed(value: unknown): Deed | EditProblem {
  const { act, edit } = (value ?? {}) as { act?: unknown; edit?: unknown };
  if (act !== 'do' && act !== 'undo' && act !== 'redo') return problem('This program does not know this step.');
  const read = readEdit(edit);
  return isProblem(read) ? read : { act, edit: read };
}

/** Steps that were kept, the newest last: one that cannot be read ends what can be undone, and costs nothing of the song. */
export function readableSteps(edits: readonly unknown[]): Step[] {
  const bad = edits.findLastIndex((e) => isProblem(readEdit(e)));
  return edits.slice(bad + 1).map((edit): Step => ({ edit: edit as Edit }));
}
