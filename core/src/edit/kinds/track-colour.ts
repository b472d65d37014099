import * as z from 'zod';
import { ColourSchema } from '../../song';
import { base, kind } from '../kind';
import { onTrack } from '../on';

const schema = z.object({ ...base, kind: z.literal('track-colour'), track: z.string(), colour: ColourSchema });

/** Colours a track. */
export const trackColour = kind({
  schema,
  apply: (song, edit) =>
    onTrack(song, edit.track, (track) => ({
      track: { ...track, colour: edit.colour },
      inverse: { ...edit, colour: track.colour },
    })),
  covers: (inverse, next) => inverse.track === next.track,
});
