import * as z from 'zod';
import { PartSchema } from '../../song';
import { base, kind, problem } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-one-take'),
  part: z.string(),
  /** What the part's takes become; null for none: what it holds stays alone. */
  takes: PartSchema.shape.takes.unwrap().nullable(),
});

/** Keeps the chosen take of a part alone, or brings the others back. */
export const partOneTake = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => {
      if (!part.takes && !edit.takes) return problem(`“${part.name}” has no takes.`);
      return {
        // It keeps its place among the part's properties: undone, the song is the same to the byte.
        part: { ...part, takes: edit.takes ?? undefined },
        inverse: { ...edit, takes: part.takes ?? null },
      };
    }),
});
