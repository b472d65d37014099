import * as z from 'zod';
import { isNote } from './is-note';
import { ChannelSchema, OrderSchema, TickSchema, Value7 } from './units';

const Velocity = z.int().min(1).max(127);

/** Places of a note's on and off among the events of their source track; null for one that was moved. */
const NoteOrderSchema = z.tuple([OrderSchema.nullable(), OrderSchema.nullable()]).readonly();

/** A note's place as first recorded, imported or drawn. */
const TakeSchema = z.object({
  start: TickSchema,
  length: TickSchema,
  velocity: Velocity,
  order: NoteOrderSchema.optional(),
  unended: z.literal(true).optional(),
});
export type FirstPlace = Readonly<z.infer<typeof TakeSchema>>;

/** How a note leaves its part's treatment. */
const ExceptionSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('own'), set: z.string() }),
  z.object({ kind: z.literal('as-played') }),
  /** The softer of a double, kept silent by Keep. */
  z.object({ kind: z.literal('dropped') }),
  z.object({ kind: z.literal('pinned'), start: TickSchema, length: TickSchema, velocity: Velocity }),
]);
export type Exception = Readonly<z.infer<typeof ExceptionSchema>>;

export const NoteSchema = z.object({
  /** Unique in the song, never used again; random draws are keyed by it. */
  id: z.int().min(0),
  start: TickSchema,
  length: TickSchema,
  pitch: Value7,
  velocity: Velocity,
  channel: ChannelSchema,
  /** Note-off velocity; null where the note was ended by a note-on of velocity 0. */
  release: Value7.nullable(),
  /** The take, where it differs from the note's own place. */
  take: TakeSchema.optional(),
  exception: ExceptionSchema.optional(),
  muted: z.literal(true).optional(),
  /** Nothing ended it in its file; it was given the end of its track. */
  unended: z.literal(true).optional(),
  /** Where the note-on and the note-off stood among the events of their source track. */
  order: NoteOrderSchema.optional(),
});
/** A note: its own place, its take if that differs, and its exception if it has one. Times in ticks. */
export type Note = Readonly<z.infer<typeof NoteSchema>>;

/** What becomes of a note; what is left out stays. */
type NoteChange = { readonly [K in keyof Note]?: Note[K] | undefined };

/**
 * A note with something changed; undefined takes it out. A spread says the same, but it is compiled to calls that take
 * ten times as long, and so does a loop over keys: that is seconds for a long take.
 */
export function changedNote(note: Note, change: NoteChange): Note {
  const copy: { -readonly [K in keyof Note]: Note[K] } = {
    id: change.id ?? note.id,
    start: change.start ?? note.start,
    length: change.length ?? note.length,
    pitch: change.pitch ?? note.pitch,
    velocity: change.velocity ?? note.velocity,
    channel: change.channel ?? note.channel,
    release: change.release === undefined ? note.release : change.release,
  };
  const take = 'take' in change ? change.take : note.take;
  const exception = 'exception' in change ? change.exception : note.exception;
  const muted = 'muted' in change ? change.muted : note.muted;
  const unended = 'unended' in change ? change.unended : note.unended;
  const order = 'order' in change ? change.order : note.order;
  if (take !== undefined) copy.take = take;
  if (exception !== undefined) copy.exception = exception;
  if (muted !== undefined) copy.muted = muted;
  if (unended !== undefined) copy.unended = unended;
  if (order !== undefined) copy.order = order;
  return copy;
}

/**
 * Some notes. Those that plainly are notes pass a quick look; the schema, which takes a hundred times as long, is
 * asked about the others and says what is wrong with them.
 */
export const NotesSchema = z.custom<readonly Note[]>().superRefine((value: unknown, context) => {
  if (!Array.isArray(value)) {
    context.addIssue({ code: 'custom', message: 'a list of notes is expected' });
    return;
  }
  for (let i = 0; i < value.length; i++) {
    if (isNote(value[i])) continue;
    const { error } = NoteSchema.safeParse(value[i]);
    if (!error) continue;
    for (const issue of error.issues) {
      context.addIssue({ code: 'custom', message: issue.message, path: [i, ...issue.path] });
    }
    return;
  }
});
