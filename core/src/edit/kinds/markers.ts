import * as z from 'zod';
import { MarkerListSchema } from '../../song';
import { base, kind, problem } from '../kind';

const schema = z.object({ ...base, kind: z.literal('markers'), to: MarkerListSchema });

/** Gives the song other markers. */
export const markers = kind({
  schema,
  apply(song, edit) {
    if (edit.to.some((c, i) => i > 0 && c.tick < edit.to[i - 1].tick))
      return problem('The changes are not in order of time.');
    return { song: { ...song, markers: edit.to }, inverse: { ...edit, to: song.markers } };
  },
  covers: () => true,
});
