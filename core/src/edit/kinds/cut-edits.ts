import * as z from 'zod';
import { TickSchema } from '../../song';
import type { Ticks } from '../../time';
import { base } from '../kind';

export const PartCutSchema = z.object({
  ...base,
  kind: z.literal('part-cut'),
  part: z.string(),
  at: TickSchema,
  /** Where what belongs to the right begins, where that is before the tick: a note that was played early for it. */
  from: TickSchema.optional(),
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
  /** As in the cut. */
  from: TickSchema.optional(),
  /** How many events the cut put at the end of the left and at the beginning of the right: of the part, then of its takes. */
  seams: z.array(z.object({ closed: z.int().min(0), set: z.int().min(0) })).readonly(),
});
export type PartUncut = z.infer<typeof PartUncutSchema>;

/** What of such an edit tells where the right begins, for the one that takes it back. */
export function earlier({ from }: PartCut | PartUncut): { from?: Ticks } {
  return from === undefined ? {} : { from };
}
