import * as z from 'zod';
import { PartEventSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';
import { patched, taken } from '../patch';

const schema = z.object({
  ...base,
  kind: z.literal('events'),
  part: z.string(),
  /** Indices in the part's events as they are. */
  remove: z.array(z.int().min(0)).readonly(),
  /** Events with their indices in the list as it becomes. */
  add: z.array(z.object({ at: z.int().min(0), event: PartEventSchema })).readonly(),
});
type EventsEdit = z.infer<typeof schema>;

/** Takes events out of a part and puts others in. */
export const events = kind<EventsEdit>({
  schema,
  apply: (song, edit) =>
    onPart<EventsEdit>(song, edit.part, (part) => {
      const to = patched(part.events, edit.remove, edit.add);
      if (!to) return problem('The edit replaces events that the part does not have.');
      if (to.some((e, i) => i > 0 && e.tick < to[i - 1].tick)) {
        return problem('The edit would put the events of the part out of order.');
      }
      return { part: { ...part, events: to }, inverse: { ...edit, ...taken(part.events, edit.remove, edit.add) } };
    }),
  // The same places again: what was there first comes back to them.
  covers(inverse, next) {
    const places = next.add.map(({ at }) => at);
    return inverse.part === next.part && same(inverse.remove, next.remove) && same(inverse.remove, places);
  },
});

function same(a: readonly number[], b: readonly number[]): boolean {
  const has = new Set(a);
  return a.length === b.length && b.every((i) => has.has(i));
}
