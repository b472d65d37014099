import * as z from 'zod';
import { NotesSchema, PartEventSchema, PartSchema } from '../../song';
import { base } from '../kind';

export const PartJoinSchema = z.object({
  ...base,
  kind: z.literal('part-join'),
  part: z.string(),
  /** The part that follows it in its track. */
  with: z.string(),
  /** A free number: own settings that come about get ids from it on. */
  id: z.int().min(0),
});
export type PartJoin = z.infer<typeof PartJoinSchema>;

/** Exceptions that a join gave to notes so that they sound as before. */
const GivenSchema = z.object({
  /** Whether all notes of a side were left as played: it was off. */
  leftPlayed: z.boolean(),
  rightPlayed: z.boolean(),
  /** Own settings, by id, that the right side's treatment became; null where it was the left side's. */
  own: z.string().nullable(),
  /** Own settings of the right side that got another id: it, and the one that they had. */
  renamed: z.array(z.tuple([z.string(), z.string()])).readonly(),
});
export type Given = z.infer<typeof GivenSchema>;

/** How what is played on a side differs from what a cut of the joined part gives. */
const MendSchema = z.object({
  /** Notes that go, by id, and notes that come, which may be the same ones changed. */
  remove: z.array(z.int().min(0)).readonly(),
  add: NotesSchema,
  /** From an index on, so many events go, and these come there. */
  from: z.int().min(0),
  gone: z.int().min(0),
  events: z.array(PartEventSchema).readonly(),
});
export type Mend = z.infer<typeof MendSchema>;

/** What takes a join back. */
export const PartUnjoinSchema = z.object({
  ...base,
  kind: z.literal('part-unjoin'),
  /** The two parts as they were, without what is played in them: their notes and events are empty. */
  left: PartSchema,
  right: PartSchema,
  given: GivenSchema,
  mend: z.object({ left: MendSchema, right: MendSchema }),
  /** The free number that the join had. */
  id: z.int().min(0),
});
export type PartUnjoin = z.infer<typeof PartUnjoinSchema>;
