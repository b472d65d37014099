import * as z from 'zod';
import { GRID_VALUES } from '../grid';

export const SlotSchema = z.object({
  /** Distance from the slot's straight line, in steps; positive is late. */
  offset: z.number().min(-1).max(1),
  /** Velocity as a ratio to the cycle's mean. */
  velocity: z.number().min(0).max(8),
  /** How many notes it was measured from; 0 for a slot that was filled in. */
  count: z.int().min(0),
});
export type Slot = Readonly<z.infer<typeof SlotSchema>>;

/** A feel: one or more bars cut into equal slots, each with its own offset and loudness. */
export const GrooveSchema = z.object({
  kind: z.literal('early-sparrow-groove'),
  version: z.literal(1),
  name: z.string().min(1).max(200),
  /** Note value of a slot. */
  value: z.union(GRID_VALUES.map((v) => z.literal(v))),
  bars: z.union([z.literal(1), z.literal(2), z.literal(4)]),
  slots: z.array(SlotSchema).min(1).max(4096).readonly(),
});
export type Groove = Readonly<z.infer<typeof GrooveSchema>>;

/** A groove with the share of its offsets and of its velocities that is used, each 0 to 1.5 and 0 to 1. */
export const GrooveUseSchema = z.object({
  groove: GrooveSchema,
  timing: z.number().min(0).max(1.5),
  velocity: z.number().min(0).max(1),
});
export type GrooveUse = Readonly<z.infer<typeof GrooveUseSchema>>;
