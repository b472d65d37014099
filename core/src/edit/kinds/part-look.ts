import * as z from 'zod';
import { ColourSchema, NameSchema } from '../../song';
import { base, kind } from '../kind';
import { onPart } from '../on';

const schema = z.object({
  ...base,
  kind: z.literal('part-look'),
  part: z.string(),
  to: NameSchema,
  colour: ColourSchema,
  muted: z.boolean(),
});

/** Names, colours or mutes a part. */
export const partLook = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => ({
      part: { ...part, name: edit.to, colour: edit.colour, muted: edit.muted },
      inverse: { ...edit, to: part.name, colour: part.colour, muted: part.muted },
    })),
  covers: (inverse, next) => inverse.part === next.part,
});
