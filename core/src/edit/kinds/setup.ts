import * as z from 'zod';
import { SetupEventSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { onTrack } from '../on';
import { patched, taken } from '../patch';

const schema = z.object({
  ...base,
  kind: z.literal('setup'),
  track: z.string(),
  /** Indices in the track's setup as it is. */
  remove: z.array(z.int().min(0)).readonly(),
  /** Events with their indices in the list as it becomes. */
  add: z.array(z.object({ at: z.int().min(0), event: SetupEventSchema })).readonly(),
});
type SetupEdit = z.infer<typeof schema>;

/** Takes events out of a track's setup and puts others in. */
export const setup = kind<SetupEdit>({
  schema,
  apply: (song, edit) =>
    onTrack<SetupEdit>(song, edit.track, (track) => {
      const to = patched(track.setup, edit.remove, edit.add);
      if (!to) return problem('The edit replaces events that the track does not have.');
      return { track: { ...track, setup: to }, inverse: { ...edit, ...taken(track.setup, edit.remove, edit.add) } };
    }),
});
