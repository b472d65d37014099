import * as z from 'zod';
import { NameSchema } from '../../song';
import { base, kind } from '../kind';

const schema = z.object({ ...base, kind: z.literal('song-name'), to: NameSchema });

/** Renames the song. */
export const songName = kind({
  schema,
  apply: (song, edit) => ({ song: { ...song, name: edit.to }, inverse: { ...edit, to: song.name } }),
  covers: () => true,
});
