import { z } from 'zod';
import { byPlace, NotesSchema, type Note, type Part } from '../../song';
import { notesClash } from '../fit';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';
import { isProblem } from '../kind';

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
      const kept: Note[] = [];
      const removed: Note[] = [];
      for (const note of part.notes) (remove.has(note.id) ? removed : kept).push(note);
      if (removed.length !== remove.size) return problem('The edit takes out notes that the part does not have.');
      if (notesClash(song, edit.add, { part, ids: remove })) return problem('The edit puts in notes that are there.');
      const inverse = { ...edit, remove: edit.add.map((n) => n.id), add: removed };
      return { part: { ...part, notes: merged(kept, [...edit.add].sort(byPlace)) }, inverse };
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

/** Two sorted lists as one: sorting all of a long part for each step of a drag would be slow. */
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
