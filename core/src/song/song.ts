import type { Follower } from './follower';
import * as z from 'zod';
import { TimeAmountSchema } from '../time';
import { PartEventSchema, SetupEventSchema } from './event';
import { NotesSchema } from './note';
import { PartAudioSchema } from './part-audio';
import { TreatmentSchema } from './treatment';
import { BytesSchema, ChannelSchema, ColourSchema, NameSchema, OrderSchema, TickSchema, Value7 } from './units';

/** The version of the song format that this program writes. */
export const SONG_VERSION = 2;

/** Settings of their own for some notes of a part. */
export const OwnSetSchema = z.object({ id: z.string(), name: z.string(), treatment: TreatmentSchema });
export type OwnSet = Readonly<z.infer<typeof OwnSetSchema>>;

/** A treatment that a part can have in place of its own. */
const VersionSchema = z.object({ id: z.string(), name: NameSchema, treatment: TreatmentSchema });
export type TreatmentVersion = Readonly<z.infer<typeof VersionSchema>>;

/** What was played in one round of a loop, or at one go. */
export const RoundSchema = z.object({
  id: z.string(),
  name: NameSchema,
  notes: NotesSchema,
  events: z.array(PartEventSchema).readonly(),
  /** Put together out of the others. */
  compiled: z.literal(true).optional(),
});
export type TakeRound = Readonly<z.infer<typeof RoundSchema>>;

export const PartSchema = z.object({
  id: z.string(),
  name: z.string(),
  colour: ColourSchema,
  /** Its span. It owns what is in it; a first note may lie a hair before it, a last one ring on beyond it. */
  start: TickSchema,
  end: TickSchema,
  /** Off: the part sounds as played. */
  on: z.boolean(),
  muted: z.boolean(),
  treatment: TreatmentSchema,
  sets: z.array(OwnSetSchema).readonly(),
  /** Sorted by start, then pitch, then id. */
  notes: NotesSchema,
  /** Controllers, bends and pressure, by tick. */
  events: z.array(PartEventSchema).readonly(),
  /** Versions of its treatment that are compared: the current one is the part's treatment as it is now. */
  versions: z
    .object({
      current: VersionSchema.pick({ id: true, name: true }),
      others: z.array(VersionSchema).max(50).readonly(),
    })
    .optional(),
  /** Rounds that were recorded: the chosen one is what the part holds now, with all that was done to it since. */
  takes: z
    .object({
      chosen: RoundSchema.pick({ id: true, name: true, compiled: true }),
      others: z.array(RoundSchema).readonly(),
    })
    .optional(),
  /** A sound file that it plays along; its notes are the file's hits. */
  audio: PartAudioSchema.optional(),
  /** The track of a file whose order its notes and events tell; absent for what came about here. */
  origin: z.object({ source: z.int().min(0) }).optional(),
});
/** A span of a track with everything in it and one treatment for it. */
export type Part = Readonly<z.infer<typeof PartSchema>>;

/** Kinds of voices that tracks sound with; `plain` is a short tone on which timing is heard best. */
export const VoiceSchema = z.enum(['keys', 'mallets', 'plucked', 'bass', 'strings', 'reed', 'drums', 'plain']);
export type VoiceKind = z.infer<typeof VoiceSchema>;

/** How a track sounds; its notes stay what they are. */
export const TrackSoundSchema = z.object({
  /** Null: by its program. */
  voice: VoiceSchema.nullable(),
  /** General MIDI program, 0 to 127; null: what its setup says. */
  program: Value7.nullable(),
  /** Null: each note's own. */
  channel: ChannelSchema.nullable(),
  /** Semitones. */
  transpose: z.int().min(-60).max(60),
  delay: TimeAmountSchema,
  /** Where it sounds; null for the built-in voices. */
  output: z.string().max(200).nullable(),
});
export type TrackSound = Readonly<z.infer<typeof TrackSoundSchema>>;

/** A track's place in the mix. */
export const MixSchema = z.object({
  mute: z.boolean(),
  solo: z.boolean(),
  /** Loudness, 0 to 1. */
  level: z.number().min(0).max(1),
  /** −1 left, 1 right. */
  pan: z.number().min(-1).max(1),
});

export const TrackSchema = z.object({
  id: z.string(),
  name: NameSchema,
  colour: ColourSchema,
  ...TrackSoundSchema.shape,
  ...MixSchema.shape,
  /** In order of time; they do not overlap. */
  parts: z.array(PartSchema).readonly(),
  /** What belongs to no part, by tick: programs, system exclusive, texts. */
  setup: z.array(SetupEventSchema).readonly(),
  /** Where it came from. */
  origin: z
    .object({
      /** Index of the track in its file. */
      source: z.int().min(0),
      /** Its name there. */
      name: z.string(),
      /** Tick of its end of track. */
      end: TickSchema,
    })
    .optional(),
});
export type Track = Readonly<z.infer<typeof TrackSchema>>;

const TempoChangeSchema = z.object({
  tick: TickSchema,
  order: OrderSchema.optional(),
  usPerQuarter: z.int().min(1).max(0xffffff),
});
const MeterChangeSchema = z.object({
  tick: TickSchema,
  order: OrderSchema.optional(),
  numerator: z.int().min(1).max(255),
  /** The note value that a beat is: a power of two. */
  denominator: z.union([1, 2, 4, 8, 16, 32, 64].map((d) => z.literal(d))),
  /** MIDI clocks a metronome click and 32nd notes a quarter, as in the file. */
  clocks: z.int().min(0).max(255),
  thirtySeconds: z.int().min(1).max(255),
});
const MarkerSchema = z.object({
  tick: TickSchema,
  name: z.string().max(1000),
  /** Where it stood in its file, and its bytes there. */
  origin: z.object({ order: OrderSchema, data: BytesSchema }).optional(),
});
export const TempoListSchema = z.array(TempoChangeSchema).max(100_000).readonly();
export const MeterListSchema = z.array(MeterChangeSchema).max(20_000).readonly();
export const MarkerListSchema = z.array(MarkerSchema).max(1_000_000).readonly();
export type SongTempo = Readonly<z.infer<typeof TempoChangeSchema>>;
export type SongMeter = Readonly<z.infer<typeof MeterChangeSchema>>;
export type Marker = Readonly<z.infer<typeof MarkerSchema>>;

export const SongSchema = z.object({
  version: z.literal(SONG_VERSION),
  name: NameSchema,
  /** Ticks a quarter note, 960 or more after import. */
  ppq: z.int().min(1).max(32767),
  tempo: TempoListSchema,
  meter: MeterListSchema,
  markers: MarkerListSchema,
  tracks: z.array(TrackSchema).readonly(),
  /** The next free number for the id of a note, a track or a part. */
  nextId: z.int().min(0).max(50_000_000),
  /** The file that it came from. */
  origin: z
    .object({
      format: z.union([z.literal(0), z.literal(1)]),
      /** Chunks of unknown types. */
      chunks: z.array(z.object({ type: z.string().length(4), data: BytesSchema })).readonly(),
    })
    .optional(),
});
/** A song as a value: it is never changed, only replaced by edits. */
export type Song = Readonly<z.infer<typeof SongSchema>>;

/** What of a song its bars and tempi need. With a follower, lines that follow a player are found by it. */
export type SongTimes = Pick<Song, 'ppq' | 'tempo' | 'meter'> & { readonly follower?: Follower | undefined };

/** A song for what looks at one part of it, and at the tracks around where they are known. */
export type SongContext = SongTimes & { readonly tracks?: Song['tracks'] };

/** How a new track sounds. */
export const PLAIN_SOUND: TrackSound = {
  voice: null,
  program: null,
  channel: null,
  transpose: 0,
  delay: { value: 0, unit: 'ms' },
  output: null,
};
/** Where a new track stands in the mix. */
export const PLAIN_MIX = { mute: false, solo: false, level: 0.8, pan: 0 } as const;
