import * as z from 'zod';
import { findTrack } from '../../song';
import { base, kind, problem } from '../kind';

const schema = z.object({ ...base, kind: z.literal('track-order'), ids: z.array(z.string()).readonly() });

/** Puts the tracks in another order. */
export const trackOrder = kind({
  schema,
  apply(song, edit) {
    const tracks = edit.ids.flatMap((id) => findTrack(song, id) ?? []);
    if (tracks.length !== song.tracks.length || new Set(tracks).size < tracks.length) {
      return problem('The order must name every track once.');
    }
    return { song: { ...song, tracks }, inverse: { ...edit, ids: song.tracks.map((t) => t.id) } };
  },
  covers: () => true,
});
