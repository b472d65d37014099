import * as z from 'zod';
import { findPart, findTrack, TickSchema, withTrack } from '../../song';
import { inOrder, isTaken, spanProblem } from '../fit';
import { base, kind, problem } from '../kind';
import { earliest, shiftPart } from '../shift';
import type { PartsEdit } from './parts';

const schema = z.object({
  ...base,
  kind: z.literal('part-copy'),
  part: z.string(),
  /** The track that the copy goes to, and where it begins there. */
  track: z.string(),
  at: TickSchema,
  /** A free number: the copy's id and those of its notes are made from it on. */
  id: z.int().min(0),
});
type PartCopy = z.infer<typeof schema>;

/** Copies a part, with everything in it, to another place or track. */
export const partCopy = kind<PartCopy, PartsEdit>({
  schema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    const target = findTrack(song, edit.track);
    if (!found || !target) return problem('The song has no such part or track any more.');
    const { part } = found;
    const id = `p${edit.id}`;
    if (edit.id < song.nextId || isTaken(song, id)) return problem('The copy needs ids that are free.');
    const by = edit.at - part.start;
    if (earliest(part) + by < 0) return problem(`“${part.name}” would begin before the song.`);
    // A copy is of what is heard: takes that were not chosen stay where they are.
    const { takes: _takes, ...shifted } = shiftPart(part, by);
    const copy = { ...shifted, id, notes: shifted.notes.map((n, i) => ({ ...n, id: edit.id + 1 + i })) };
    const wrong = spanProblem(target, copy);
    if (wrong) return problem(wrong);
    const after = withTrack(song, target.id, (t) => ({ ...t, parts: inOrder([...t.parts, copy]) }));
    return {
      song: { ...after, nextId: edit.id + 1 + copy.notes.length },
      inverse: { kind: 'parts', name: edit.name, track: target.id, remove: [id], add: [] },
    };
  },
});
