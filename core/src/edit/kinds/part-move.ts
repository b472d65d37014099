import * as z from 'zod';
import { findPart, findTrack, type Song } from '../../song';
import { inOrder, spanProblem } from '../fit';
import { base, kind, problem } from '../kind';
import { earliest, shiftPart } from '../shift';

const schema = z.object({
  ...base,
  kind: z.literal('part-move'),
  part: z.string(),
  /** The track that it goes to. */
  track: z.string(),
  /** Ticks; back is negative. */
  by: z.int(),
});
type PartMove = z.infer<typeof schema>;

/** Moves a part in time or to another track, with everything in it. */
export const partMove = kind<PartMove>({
  schema,
  apply(song, edit) {
    const found = findPart(song, edit.part);
    const target = findTrack(song, edit.track);
    if (!found || !target) return problem('The song has no such part or track any more.');
    const { part, track } = found;
    if (earliest(part) + edit.by < 0) return problem(`“${part.name}” would begin before the song.`);
    const moved = edit.by === 0 ? part : shiftPart(part, edit.by);
    const wrong = spanProblem(target, moved);
    if (wrong) return problem(wrong);
    const tracks = song.tracks.map((t): Song['tracks'][number] => {
      const without = t === track ? t.parts.filter((p) => p !== part) : t.parts;
      if (t === target) return { ...t, parts: inOrder([...without, moved]) };
      return t === track ? { ...t, parts: without } : t;
    });
    return { song: { ...song, tracks }, inverse: { ...edit, track: track.id, by: 0 - edit.by } };
  },
});
