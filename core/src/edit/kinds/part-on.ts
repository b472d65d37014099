import * as z from 'zod';
import { base, kind } from '../kind';
import { onPart } from '../on';

const schema = z.object({ ...base, kind: z.literal('part-on'), part: z.string(), on: z.boolean() });

/** Switches a part's whole treatment. */
export const partOn = kind({
  schema,
  apply: (song, edit) =>
    onPart(song, edit.part, (part) => ({ part: { ...part, on: edit.on }, inverse: { ...edit, on: part.on } })),
  covers: (inverse, next) => inverse.part === next.part,
});
