import { z } from 'zod';
import { BytesSchema, TrackEventSchema } from './event';
import { TreatmentSchema } from './treatment';

/** The version of the song format that this program writes. */
export const SONG_VERSION = 1;

const Tick = z.int().min(0);
const Value7 = z.int().min(0).max(127);

/** Places of a note's on and off among the events of their source track; null for one that was moved. */
const OrderSchema = z.tuple([z.number().nullable(), z.number().nullable()]).readonly();

/** A note's place as first recorded, imported or drawn. */
const TakeSchema = z.object({
  start: Tick,
  length: Tick,
  velocity: z.int().min(1).max(127),
  order: OrderSchema.optional(),
  unended: z.literal(true).optional(),
});
export type Take = Readonly<z.infer<typeof TakeSchema>>;

/** How a note leaves its part's treatment. */
const ExceptionSchema = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('own'), set: z.string() }),
  z.object({ kind: z.literal('as-played') }),
  /** The softer of a double, kept silent by Keep. */
  z.object({ kind: z.literal('dropped') }),
  z.object({ kind: z.literal('pinned'), start: Tick, length: Tick, velocity: z.int().min(1).max(127) }),
]);
export type Exception = Readonly<z.infer<typeof ExceptionSchema>>;

export const NoteSchema = z.object({
  /** Unique in the song, never used again; random draws are keyed by it. */
  id: z.int().min(0),
  start: Tick,
  length: Tick,
  pitch: Value7,
  velocity: z.int().min(1).max(127),
  channel: z.int().min(0).max(15),
  /** Note-off velocity; null where the note was ended by a note-on of velocity 0. */
  release: Value7.nullable(),
  /** The take, where it differs from the note's own place. */
  take: TakeSchema.optional(),
  exception: ExceptionSchema.optional(),
  muted: z.literal(true).optional(),
  /** Nothing ended it in its file; it was given the end of its track. */
  unended: z.literal(true).optional(),
  /** Where the note-on and the note-off stood among the events of their source track. */
  order: OrderSchema.optional(),
});
/** A note: its own place, its take if that differs, and its exception if it has one. Times in ticks. */
export type Note = Readonly<z.infer<typeof NoteSchema>>;

/** Settings of their own for some notes of a part. */
export const OwnSetSchema = z.object({ id: z.string(), name: z.string(), treatment: TreatmentSchema });
export type OwnSet = Readonly<z.infer<typeof OwnSetSchema>>;

export const PartSchema = z.object({
  id: z.string(),
  name: z.string(),
  /** Where the part is meant to begin; a first note may lie before it. */
  start: Tick,
  /** Off: the part sounds as played. */
  on: z.boolean(),
  treatment: TreatmentSchema,
  sets: z.array(OwnSetSchema).readonly(),
  /** Sorted by start, then pitch. */
  notes: z.array(NoteSchema).readonly(),
});
export type Part = Readonly<z.infer<typeof PartSchema>>;

export const TrackSchema = z.object({
  id: z.string(),
  name: z.string(),
  /** Index of the track in the file it came from. */
  source: z.int().min(0),
  parts: z.array(PartSchema).readonly(),
  events: z.array(TrackEventSchema).readonly(),
  /** Tick of the end of track. */
  end: Tick,
  mute: z.boolean(),
  solo: z.boolean(),
  /** Loudness in the mix, 0 to 1. */
  level: z.number().min(0).max(1),
});
export type Track = Readonly<z.infer<typeof TrackSchema>>;

const TempoChangeSchema = z.object({
  tick: Tick,
  order: z.number(),
  usPerQuarter: z.int().min(1).max(0xffffff),
});
const MeterChangeSchema = z.object({
  tick: Tick,
  order: z.number(),
  numerator: z.int().min(1).max(255),
  denominator: z
    .int()
    .min(1)
    .max(1 << 20),
  /** MIDI clocks a metronome click and 32nd notes a quarter, as in the file. */
  clocks: z.int().min(0).max(255),
  thirtySeconds: z.int().min(1).max(255),
});
export type SongTempo = Readonly<z.infer<typeof TempoChangeSchema>>;
export type SongMeter = Readonly<z.infer<typeof MeterChangeSchema>>;

export const SongSchema = z.object({
  version: z.literal(SONG_VERSION),
  name: z.string().min(1).max(200),
  /** Ticks a quarter note, 960 or more after import. */
  ppq: z.int().min(1).max(32767),
  /** What the file's own division was multiplied by. */
  ppqFactor: z.int().min(1),
  format: z.union([z.literal(0), z.literal(1)]),
  tempo: z.array(TempoChangeSchema).readonly(),
  meter: z.array(MeterChangeSchema).readonly(),
  tracks: z.array(TrackSchema).readonly(),
  /** Chunks of unknown types, kept for export. */
  chunks: z.array(z.object({ type: z.string().length(4), data: BytesSchema })).readonly(),
  /** The next free note id. */
  nextId: z.int().min(0),
});
/** A song as a value: it is never changed, only replaced by edits. */
export type Song = Readonly<z.infer<typeof SongSchema>>;

/** What of a song its bars and tempi need. */
export type SongTimes = Pick<Song, 'ppq' | 'tempo' | 'meter'>;

/** A stored song that cannot be read. */
export class SongFormatError extends Error {
  readonly code = 'song-format';
  constructor(
    /** Where in the song the first fault lies, such as `tracks.0.parts.0.notes.3.start`. */
    readonly path: string,
    reason: string,
  ) {
    super(`Not a readable song${path ? ` (at ${path})` : ''}: ${reason}`);
  }
}

/**
 * Checks a value that comes from storage or a file.
 * @throws SongFormatError naming the first fault
 */
export function readSong(value: unknown): Song {
  const version = (value as { version?: unknown } | null)?.version;
  if (typeof version === 'number' && version > SONG_VERSION) {
    throw new SongFormatError('version', `version ${version} is newer than this program`);
  }
  const result = SongSchema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new SongFormatError(issue.path.join('.'), issue.message);
}
