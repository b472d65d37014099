import * as z from 'zod';
import { TrackSchema } from '../../song';
import { isTaken, nextIdWith, notesClash } from '../fit';
import { base, kind, problem } from '../kind';
import { patched, taken } from '../patch';

const schema = z.object({
  ...base,
  kind: z.literal('tracks'),
  remove: z.array(z.string()).readonly(),
  /** Tracks with their places among all tracks as they become. */
  add: z.array(z.object({ at: z.int().min(0), track: TrackSchema })).readonly(),
});
type TracksEdit = z.infer<typeof schema>;

/** Takes tracks out of the song, with all that is in them, and puts others in. */
export const tracks = kind<TracksEdit>({
  schema,
  apply(song, edit) {
    const gone = edit.remove.map((id) => song.tracks.findIndex((t) => t.id === id));
    if (gone.includes(-1)) return problem('The edit takes out tracks that are not there.');
    const rest = { ...song, tracks: song.tracks.filter((t) => !edit.remove.includes(t.id)) };
    const added = edit.add.map((a) => a.track);
    const ids = added.flatMap((t) => [t.id, ...t.parts.map((p) => p.id)]);
    if (new Set(ids).size < ids.length || ids.some((id) => isTaken(rest, id))) {
      return problem('The edit puts in tracks that are there.');
    }
    const notes = added.flatMap((t) => t.parts.flatMap((p) => p.notes));
    if (notesClash(rest, notes)) return problem('The edit puts in notes that are there.');
    const place = edit.add.map(({ at, track }) => ({ at, event: track }));
    const to = patched(song.tracks, gone, place);
    if (!to) return problem('The edit puts a track where none can be.');
    const back = taken(song.tracks, gone, place);
    return {
      song: { ...song, tracks: to, nextId: nextIdWith(song, [], added) },
      inverse: {
        ...edit,
        remove: added.map((t) => t.id),
        add: back.add.map(({ at, event }) => ({ at, track: event })),
      },
    };
  },
});
