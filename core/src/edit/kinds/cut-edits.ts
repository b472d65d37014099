import * as z from 'zod';
import { TickSchema } from '../../song';
import { base } from '../kind';

export const PartCutSchema = z.object({
  ...base,
  kind: z.literal('part-cut'),
  part: z.string(),
  at: TickSchema,
  /** A free number: the right part's id is made of it. */
  id: z.int().min(0),
});
export type PartCut = z.infer<typeof PartCutSchema>;

/** What takes a cut back. */
export const PartUncutSchema = z.object({
  ...base,
  kind: z.literal('part-uncut'),
  part: z.string(),
  /** The part that was cut off it. */
  with: z.string(),
  /** How many events the cut put at the end of the left and at the beginning of the right: of the part, then of its takes. */
  seams: z.array(z.object({ closed: z.int().min(0), set: z.int().min(0) })).readonly(),
});
export type PartUncut = z.infer<typeof PartUncutSchema>;
