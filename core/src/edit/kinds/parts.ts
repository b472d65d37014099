import * as z from 'zod';
import { PartSchema, type Part } from '../../song';
import { inOrder, isTaken, nextIdWith, notesClash, spanProblem } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onTrack } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('parts'),
  track: z.string(),
  remove: z.array(z.string()).readonly(),
  add: z.array(PartSchema).readonly(),
});
export type PartsEdit = z.infer<typeof schema>;

/** Takes parts out of a track, with all that is in them, and puts others in. */
export const parts = kind<PartsEdit>({
  schema,
  apply(song, edit) {
    const done = onTrack<PartsEdit>(song, edit.track, (track) => {
      const removed = track.parts.filter((p) => edit.remove.includes(p.id));
      if (removed.length !== new Set(edit.remove).size) return problem('The edit takes out parts that are not there.');
      let left = { ...track, parts: track.parts.filter((p) => !edit.remove.includes(p.id)) };
      const rest = { ...song, tracks: song.tracks.map((t) => (t === track ? left : t)) };
      for (const part of edit.add) {
        if (isTaken(rest, part.id) || left.parts.some((p) => p.id === part.id)) {
          return problem('The edit puts in a part that is there.');
        }
        const wrong = spanProblem(left, part);
        if (wrong) return problem(wrong);
        left = { ...left, parts: inOrder([...left.parts, part]) };
      }
      if (notesClash(rest, allNotes(edit.add))) return problem('The edit puts in notes that are there.');
      return { track: left, inverse: { ...edit, remove: edit.add.map((p) => p.id), add: removed } };
    });
    return isProblem(done) ? done : { ...done, song: { ...done.song, nextId: nextIdWith(song, edit.add) } };
  },
});

function allNotes(added: readonly Part[]): Part['notes'] {
  return added.length === 1 ? added[0].notes : added.flatMap((p) => p.notes);
}
