import * as z from 'zod';
import { TempoListSchema } from '../../song';
import { base, kind, problem } from '../kind';

const schema = z.object({ ...base, kind: z.literal('tempo'), to: TempoListSchema });

/** Gives the song another tempo map. */
export const tempo = kind({
  schema,
  apply(song, edit) {
    if (edit.to.some((c, i) => i > 0 && c.tick < edit.to[i - 1].tick))
      return problem('The changes are not in order of time.');
    return { song: { ...song, tempo: edit.to }, inverse: { ...edit, to: song.tempo } };
  },
  covers: () => true,
});
