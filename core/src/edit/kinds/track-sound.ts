import * as z from 'zod';
import { TrackSoundSchema, type TrackSound } from '../../song';
import { base, kind } from '../kind';
import { onTrack } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('track-sound'),
  track: z.string(),
  to: TrackSoundSchema,
});

/** Changes how a track sounds: voice, program, channel, transposition, delay, output. Its notes stay what they are. */
export const trackSound = kind({
  schema,
  apply: (song, edit) =>
    onTrack(song, edit.track, (track) => {
      const { voice, program, channel, transpose, delay, output } = track;
      const before: TrackSound = { voice, program, channel, transpose, delay, output };
      return { track: { ...track, ...edit.to }, inverse: { ...edit, to: before } };
    }),
  covers: (inverse, next) => inverse.track === next.track,
});
