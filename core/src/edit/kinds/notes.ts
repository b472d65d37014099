import { z } from 'zod';
import { byPlace, NotesSchema, type Note, type Part } from '../../song';
import { notesClash } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('notes'),
  part: z.string(),
  remove: z.array(z.int()).readonly(),
  add: NotesSchema,
});
type NotesEdit = z.infer<typeof schema>;

/** Takes notes out of a part by id and puts notes in, which may be the same ones changed. */
export const notes = kind<NotesEdit>({
  schema,
  apply(song, edit) {
    const remove = new Set(edit.remove);
    const done = onPart<NotesEdit>(song, edit.part, (part) => {
      const at = indicesOf(part.notes, remove);
      if (at.length !== remove.size) return problem('The edit takes out notes that the part does not have.');
      if (notesClash(song, edit.add, { part, ids: remove })) return problem('The edit puts in notes that are there.');
      const inverse = { ...edit, remove: edit.add.map((n) => n.id), add: at.map((i) => part.notes[i]) };
      return { part: { ...part, notes: patched(part.notes, at, [...edit.add].sort(byPlace)) }, inverse };
    });
    if (isProblem(done)) return done;
    const nextId = edit.add.reduce((next, n) => Math.max(next, n.id + 1), song.nextId);
    return { ...done, song: { ...done.song, nextId } };
  },
  covers(inverse, next) {
    const changed = new Set(inverse.remove);
    const same = next.remove.length === changed.size && next.add.length === changed.size;
    return inverse.part === next.part && same && next.add.every((n) => changed.has(n.id));
  },
});

/** Up to so many notes are put in and taken out one by one: most edits are of a few notes of many. */
const FEW = 40;

function indicesOf(list: readonly Note[], ids: ReadonlySet<number>): number[] {
  const found: number[] = [];
  if (ids.size === 0) return found;
  const [only] = ids;
  for (let i = 0; i < list.length; i++) {
    const { id } = list[i];
    if (ids.size === 1 ? id === only : ids.has(id)) found.push(i);
  }
  return found;
}

/** A sorted list without the notes at some ascending indices and with other sorted notes. */
function patched(list: readonly Note[], without: readonly number[], add: readonly Note[]): Note[] {
  if (without.length + add.length > FEW) {
    const gone = new Set(without);
    return merged(
      list.filter((_, i) => !gone.has(i)),
      add,
    );
  }
  const all = list.slice();
  for (let k = without.length - 1; k >= 0; k--) all.splice(without[k], 1);
  for (const note of add) {
    let low = 0;
    let high = all.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (byPlace(all[middle], note) < 0) low = middle + 1;
      else high = middle;
    }
    all.splice(low, 0, note);
  }
  return all;
}

/** Two sorted lists as one. */
function merged(a: readonly Note[], b: readonly Note[]): Note[] {
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
  return { kind: 'notes', name, part: part.id, remove: changed.map((n) => n.id), add: changed };
}
