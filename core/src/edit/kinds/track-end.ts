import * as z from 'zod';
import { TickSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { onTrack } from '../on';

const schema = z.object({ ...base, kind: z.literal('track-end'), track: z.string(), end: TickSchema });
type TrackEnd = z.infer<typeof schema>;

/** Gives the track of a file another end. */
export const trackEnd = kind<TrackEnd>({
  schema,
  apply: (song, edit) =>
    onTrack<TrackEnd>(song, edit.track, (track) => {
      if (!track.origin) return problem('Only a track that came from a file has an end of its own.');
      return {
        track: { ...track, origin: { ...track.origin, end: edit.end } },
        inverse: { ...edit, end: track.origin.end },
      };
    }),
});
