import * as z from 'zod';
import { NameSchema } from '../../song';
import { base, kind } from '../kind';
import { onTrack } from '../on';

const schema = z.object({ ...base, kind: z.literal('track-name'), track: z.string(), to: NameSchema });

/** Renames a track. The bytes of its name in a file are kept, so that the old name comes back as it was. */
export const trackName = kind({
  schema,
  apply: (song, edit) =>
    onTrack(song, edit.track, (track) => ({
      track: { ...track, name: edit.to },
      inverse: { ...edit, to: track.name },
    })),
  covers: (inverse, next) => inverse.track === next.track,
});
