import { z } from 'zod';
import { findPart, RoundSchema } from '../../song';
import { nextIdWith, notesClash } from '../fit';
import { base, isProblem, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-compile'),
  part: z.string(),
  /** The take that comes in and is chosen; null takes the chosen one away. */
  take: RoundSchema.nullable(),
  /** Id of the take that is chosen again where one is taken away. */
  back: z.string().nullable(),
});
type PartCompile = z.infer<typeof schema>;

/** Adds a take to a part's takes and chooses it, or takes the chosen one away. The one that was chosen stays as it is. */
export const partCompile = kind<PartCompile>({
  schema,
  apply(song, edit) {
    const done = onPart<PartCompile>(song, edit.part, (part) => {
      if (!part.takes) return problem(`“${part.name}” has no takes to put together.`);
      const { chosen, others } = part.takes;
      const { notes, events } = part;
      if (edit.take) {
        const { notes: own, events: ownEvents, ...head } = edit.take;
        if ([chosen, ...others].some((r) => r.id === head.id)) return problem('The part has that take.');
        if (notesClash(song, own)) return problem('The edit puts in notes that are there.');
        return {
          part: {
            ...part,
            notes: own,
            events: ownEvents,
            takes: { chosen: head, others: [...others, { ...chosen, notes, events }] },
          },
          inverse: { ...edit, take: null, back: chosen.id },
        };
      }
      const again = others.find((r) => r.id === edit.back);
      if (!again) return problem(`“${part.name}” has no such take to go back to.`);
      const { notes: own, events: ownEvents, ...head } = again;
      return {
        part: {
          ...part,
          notes: own,
          events: ownEvents,
          takes: { chosen: head, others: others.filter((r) => r !== again) },
        },
        inverse: { ...edit, take: { ...chosen, notes, events }, back: null },
      };
    });
    if (isProblem(done) || !edit.take) return done;
    const { part } = findPart(done.song, edit.part)!;
    return { ...done, song: { ...done.song, nextId: nextIdWith(song, [part]) } };
  },
});
