import * as z from 'zod';
import { areNotes, isNote } from './is-note';
import { ChannelSchema, OrderSchema, TickSchema, Value7 } from './units';

const Velocity = z.int().min(1).max(127);

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

/** Places of a note's on and off among the events of their source track; null for one that was moved. */
export type NoteOrder = readonly [number | null, number | null];
export type NoteDraft = { -readonly [K in keyof Note]: Note[K] };

/**
 * A new note; undefined leaves something out. What a literal names lies in the object itself; what is added later lies in a
 * list of its own. For a million notes that is a million more things to make, to fetch and to collect.
 */
export function makeNote(
  id: number,
  start: number,
  length: number,
  pitch: number,
  velocity: number,
  channel: number,
  release: number | null,
  take: FirstPlace | undefined,
  exception: Exception | undefined,
  order: NoteOrder | undefined,
): NoteDraft {
  if (take) {
    if (exception) {
      if (order) return { id, start, length, pitch, velocity, channel, release, take, exception, order };
      return { id, start, length, pitch, velocity, channel, release, take, exception };
    }
    if (order) return { id, start, length, pitch, velocity, channel, release, take, order };
    return { id, start, length, pitch, velocity, channel, release, take };
  }
  if (exception) {
    if (order) return { id, start, length, pitch, velocity, channel, release, exception, order };
    return { id, start, length, pitch, velocity, channel, release, exception };
  }
  if (order) return { id, start, length, pitch, velocity, channel, release, order };
  return { id, start, length, pitch, velocity, channel, release };
}

/** A new place as first recorded, as {@link makeNote} makes notes. */
export function makePlace(
  start: number,
  length: number,
  velocity: number,
  order: NoteOrder | undefined,
): { -readonly [K in keyof FirstPlace]: FirstPlace[K] } {
  return order ? { start, length, velocity, order } : { start, length, velocity };
}

/** What becomes of a note; what is left out stays. */
type NoteChange = { readonly [K in keyof Note]?: Note[K] | undefined };

/**
 * A note with something changed; undefined takes it out. A spread says the same, but it is compiled to calls that take
 * ten times as long, and so does a loop over keys: that is seconds for a long take.
 */
export function changedNote(note: Note, change: NoteChange): Note {
  const copy = makeNote(
    change.id ?? note.id,
    change.start ?? note.start,
    change.length ?? note.length,
    change.pitch ?? note.pitch,
    change.velocity ?? note.velocity,
    change.channel ?? note.channel,
    change.release === undefined ? note.release : change.release,
    'take' in change ? change.take : note.take,
    'exception' in change ? change.exception : note.exception,
    'order' in change ? change.order : note.order,
  );
  const muted = 'muted' in change ? change.muted : note.muted;
  const unended = 'unended' in change ? change.unended : note.unended;
  if (muted) copy.muted = muted;
  if (unended) copy.unended = unended;
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
  if (areNotes(value)) return;
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
