import * as z from 'zod';
import { MeterListSchema } from '../../song';
import { base, kind, problem } from '../kind';

const schema = z.object({ ...base, kind: z.literal('meter'), to: MeterListSchema });

/** Gives the song other meters. */
export const meter = kind({
  schema,
  apply(song, edit) {
    if (edit.to.some((c, i) => i > 0 && c.tick < edit.to[i - 1].tick))
      return problem('The changes are not in order of time.');
    return { song: { ...song, meter: edit.to }, inverse: { ...edit, to: song.meter } };
  },
  covers: () => true,
});
