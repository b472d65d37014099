import * as z from 'zod';
import { holdsInBlocks, inBlocks } from '../../maths';
import { byPlace, isInOrder, madeOf, notesAt, NotesSchema, putInPlace, type Note, type Part } from '../../song';
import { notesClash } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('notes'),
  part: z.string(),
  // Looked at all at once: the array's own schema asks another one about each.
  remove: z.custom<readonly number[]>(
    (ids) => Array.isArray(ids) && ids.every(Number.isSafeInteger),
    'ids of notes are expected',
  ),
  add: NotesSchema,
});
type NotesEdit = z.infer<typeof schema>;

/** Takes notes out of a part by id and puts notes in, which may be the same ones changed. */
export const notes = kind<NotesEdit>({
  schema,
  apply(song, edit) {
    const same = areSame(edit);
    const done = onPart<NotesEdit>(song, edit.part, (part) => {
      const at = notesAt(part.notes, edit.remove);
      // Fewer are found where one is not there, or is named twice.
      if (at.length < edit.remove.length) return problem('The edit takes out notes that the part does not have.');
      if (!same && notesClash(song, edit.add, { part, ids: new Set(edit.remove) })) {
        return problem('The edit puts in notes that are there.');
      }
      const remove = same ? edit.remove : edit.add.map((n) => n.id);
      const inverse = { ...edit, remove, add: those(part.notes, at) };
      return { part: { ...part, notes: patched(part.notes, at, edit.add) }, inverse };
    });
    if (isProblem(done)) return done;
    let { nextId } = song;
    // Ids that are there already are below.
    if (!same) for (const { id } of edit.add) if (id >= nextId) nextId = id + 1;
    return { ...done, song: { ...done.song, nextId } };
  },
  covers(inverse, next) {
    if (inverse.part !== next.part || next.remove.length !== inverse.remove.length) return false;
    if (areSame(next) && next.remove.every((id, i) => id === inverse.remove[i])) return true;
    const changed = new Set(inverse.remove);
    return next.add.length === changed.size && next.add.every((n) => changed.has(n.id));
  },
});

/** Whether the notes that come in are those that go, one by one. */
function areSame({ remove, add }: NotesEdit): boolean {
  if (remove.length !== add.length) return false;
  return holdsInBlocks(add.length, (from, to) => {
    for (let i = from; i < to; i++) if (remove[i] !== add[i].id) return false;
    return true;
  });
}

function those(list: readonly Note[], at: readonly number[]): Note[] {
  const found = new Array<Note>(at.length);
  inBlocks(at.length, (from, to) => {
    for (let k = from; k < to; k++) found[k] = list[at[k]];
  });
  return found;
}

/** Up to so many notes are put in and taken out one by one: most edits are of a few notes of many. */
const FEW = 40;

/** A list without what is at some ascending indices. */
function left(list: readonly Note[], without: readonly number[]): readonly Note[] {
  if (without.length === list.length) return [];
  const rest: Note[] = [];
  let next = 0;
  for (let i = 0; i < list.length; i++) {
    if (without[next] === i) next++;
    else rest.push(list[i]);
  }
  return rest;
}

function sorted(notes: readonly Note[]): readonly Note[] {
  return isInOrder(notes) ? notes : [...notes].sort(byPlace);
}

/** A sorted list without the notes at some ascending indices and with others. */
function patched(list: readonly Note[], without: readonly number[], unsorted: readonly Note[]): Note[] {
  const inPlace = replaced(list, without, unsorted);
  if (inPlace) putInPlace(inPlace, list, without);
  // Each in the place of one before they are in order as they are.
  const add = inPlace ? unsorted : sorted(unsorted);
  const all = inPlace ?? resorted(list, without, add);
  const [first, last] = [add.at(0), add.at(-1)];
  // Which notes stay where they are is known without looking at all of them.
  return madeOf(all, list, {
    front: Math.min(without.at(0) ?? all.length, first ? placeOf(first, all) : all.length),
    back: Math.min(
      without.length > 0 ? list.length - 1 - without[without.length - 1] : all.length,
      last ? all.length - 1 - placeOf(last, all) : all.length,
    ),
  });
}

function resorted(list: readonly Note[], without: readonly number[], add: readonly Note[]): Note[] {
  if (without.length + add.length > FEW) {
    return merged(left(list, without), add);
  }
  const all = list.slice();
  for (let k = without.length - 1; k >= 0; k--) all.splice(without[k], 1);
  for (const note of add) all.splice(placeOf(note, all), 0, note);
  return all;
}

/** Where a note stands in a sorted list, or belongs. */
function placeOf(note: Note, list: readonly Note[]): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (byPlace(list[middle], note) < 0) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** A sorted list with other notes in the places of some; null where they do not belong there. */
function replaced(list: readonly Note[], at: readonly number[], add: readonly Note[]): Note[] | null {
  if (at.length !== add.length) return null;
  const all = list.slice();
  inBlocks(at.length, (from, to) => {
    for (let k = from; k < to; k++) all[at[k]] = add[k];
  });
  const fits = holdsInBlocks(at.length, (from, to) => {
    for (let k = from; k < to; k++) {
      const i = at[k];
      if (i > 0 && byPlace(all[i - 1], all[i]) > 0) return false;
      // The next one looks at the pair itself.
      if (at[k + 1] !== i + 1 && i + 1 < all.length && byPlace(all[i], all[i + 1]) > 0) return false;
    }
    return true;
  });
  return fits ? all : null;
}

/** Two sorted lists as one. */
function merged(a: readonly Note[], b: readonly Note[]): Note[] {
  if (a.length === 0) return b.slice();
  const all: Note[] = [];
  let j = 0;
  for (const note of a) {
    while (j < b.length && byPlace(b[j], note) < 0) all.push(b[j++]);
    all.push(note);
  }
  while (j < b.length) all.push(b[j++]);
  return all;
}

/** An edit that replaces some notes of a part by changed ones with the same ids. */
export function changeNotes(name: string, part: Part, changed: readonly Note[]): NotesEdit {
  // A loop: in a drag of a long part's notes it is made anew at every step.
  const remove = new Array<number>(changed.length);
  for (let i = 0; i < remove.length; i++) remove[i] = changed[i].id;
  return { kind: 'notes', name, part: part.id, remove, add: changed };
}
