import * as z from 'zod';
import { MixSchema } from '../../song';
import { base, kind } from '../kind';
import { onTrack } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('mix'),
  track: z.string(),
  ...MixSchema.shape,
  // Edits of the first version knew no place between left and right.
  pan: MixSchema.shape.pan.optional(),
});

/** Changes a track's place in the mix. */
export const mix = kind({
  schema,
  apply: (song, edit) =>
    onTrack(song, edit.track, (track) => {
      const { mute, solo, level, pan } = track;
      return {
        track: { ...track, mute: edit.mute, solo: edit.solo, level: edit.level, pan: edit.pan ?? pan },
        inverse: { ...edit, mute, solo, level, pan },
      };
    }),
  covers: (inverse, next) => inverse.track === next.track,
});
