import * as z from 'zod';
import { chosenRound, findPart, RoundSchema, withRound } from '../../song';
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
      const before = chosenRound(part, part.takes);
      const { take } = edit;
      if (take) {
        if ([chosen, ...others].some((r) => r.id === take.id)) return problem('The part has that take.');
        if (notesClash(song, take.notes)) return problem('The edit puts in notes that are there.');
        return { part: withRound(part, take, [...others, before]), inverse: { ...edit, take: null, back: chosen.id } };
      }
      const again = others.find((r) => r.id === edit.back);
      if (!again) return problem(`“${part.name}” has no such take to go back to.`);
      return {
        part: withRound(
          part,
          again,
          others.filter((r) => r !== again),
        ),
        inverse: { ...edit, take: before, back: null },
      };
    });
    if (isProblem(done) || !edit.take) return done;
    const { part } = findPart(done.song, edit.part)!;
    return { ...done, song: { ...done.song, nextId: nextIdWith(song, [part]) } };
  },
});
