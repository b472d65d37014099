import * as z from 'zod';
import { MarkerListSchema, MeterListSchema, tempoOf, TempoListSchema, TrackSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { retime } from '../retime';

const schema = z.object({
  ...base,
  kind: z.literal('song-time'),
  ppq: z.int().min(1).max(32767),
  meter: MeterListSchema,
  /** The tempo map under which everything comes to lie where it sounds now. */
  under: TempoListSchema,
  /** The tempo map that the song gets: another one where the playing is to become steadier. */
  tempo: TempoListSchema,
  /** What lies in the song's time, where it comes back as it was. */
  contents: z.object({ tracks: z.array(TrackSchema).readonly(), markers: MarkerListSchema }).optional(),
});

/**
 * Gives the song other bars and tempi and keeps every note where it sounds, to the tick: a tempo map that was fitted
 * to free playing. Amounts of treatments stay as they are.
 */
export const songTime = kind({
  schema,
  apply(song, edit) {
    const { ppq, meter, under, tempo, contents } = edit;
    for (const list of [meter, under, tempo]) {
      if (list.some((c, i) => i > 0 && c.tick < list[i - 1].tick))
        return problem('The changes are not in order of time.');
    }
    const moved = contents ?? retime(song, tempoOf(song), tempoOf({ ppq, tempo: under }));
    const inverse = {
      ...edit,
      ppq: song.ppq,
      meter: song.meter,
      under: song.tempo,
      tempo: song.tempo,
      contents: { tracks: song.tracks, markers: song.markers },
    };
    return { song: { ...song, ppq, meter, tempo, ...moved }, inverse };
  },
});
