import * as z from 'zod';
import { GridSchema, grid } from '../grid';
import { TimeAmountSchema } from '../time';
import { GrooveUseSchema } from './groove';

/** How far an offset may go: a time, or percent of half the local gap between lines. */
export const LimitSchema = z.object({
  value: z.number().min(0).max(60_000),
  unit: z.enum(['ms', 'ticks', 'percent']),
});
export type Limit = Readonly<z.infer<typeof LimitSchema>>;

const EventModeSchema = z.enum(['stay', 'follow', 'quantize']);
export type EventMode = z.infer<typeof EventModeSchema>;

const Share = z.number().min(0).max(1);

export const LagSchema = z.object({ on: z.boolean(), amount: TimeAmountSchema });

export const QuantizeSchema = z.object({
  on: z.boolean(),
  /** Off: lines are still found, for lengths, but starts stay. */
  starts: z.boolean(),
  grid: GridSchema,
  groove: GrooveUseSchema.nullable(),
  /** Another track, to whose chords the lines near them are moved, as it was played or as it sounds now. */
  with: z.object({ track: z.string().min(1).max(200), as: z.enum(['played', 'corrected']) }).nullish(),
  lines: z.enum(['nearest', 'follow']),
  /** Share of the way to the line, 0 to 1. */
  strength: Share,
  /** How often the strength is applied, 1 to 16: what is left is offset × (1 − strength)^times. */
  times: z.int().min(1).max(16),
  direction: z.enum(['both', 'early', 'late']),
  /** Offsets up to it are close enough. */
  tolerance: LimitSchema,
  /** Offsets beyond it are too far to pull; null for no limit. */
  reach: LimitSchema.nullable(),
  /** Longest chord from its first start to its last, in ms. */
  chordMs: z.number().min(0).max(200),
  /** How much of a chord's spread full strength leaves: 0 puts its notes together, 1 keeps their distances. */
  spread: Share,
  pedal: EventModeSchema,
  bend: EventModeSchema,
  pressure: EventModeSchema,
  controller: EventModeSchema,
});

export const LengthsSchema = z.object({
  on: z.boolean(),
  /** What stays when a start moves: the note's length, or its end. */
  keep: z.enum(['length', 'end']),
  mode: z.enum(['none', 'line', 'steps', 'legato', 'fixed']),
  /** The ends' own grid; null for the starts' grid. */
  grid: GridSchema.nullable(),
  strength: Share,
  shorten: z.boolean(),
  lengthen: z.boolean(),
  followSwing: z.boolean(),
  /** Legato: silence before the next chord. */
  gap: TimeAmountSchema,
  /** Fixed length in quarter notes. */
  fixed: z
    .number()
    .min(1 / 256)
    .max(64),
  /** No shortening below it, in quarter notes (default a 1/128 note). */
  min: z.number().min(0).max(4),
});

export const PushSchema = z.object({ on: z.boolean(), amount: TimeAmountSchema });

export const AccentSchema = z.object({
  /** Beat of the bar, counted from 1; 2.5 is the second half of beat 2. */
  beat: z.number().min(1).max(64),
  add: z.number().min(-127).max(127),
});

export const VelocitySchema = z.object({
  on: z.boolean(),
  /** Distances to the mean velocity: 0 makes all equal, 1 leaves them, 2 doubles them. */
  scale: z.number().min(0).max(2),
  /** Added to every velocity. */
  level: z.number().min(-127).max(127),
  /** One velocity for all; null leaves them. */
  fixed: z.int().min(1).max(127).nullable(),
  low: z.int().min(1).max(127),
  high: z.int().min(1).max(127),
  accents: z.array(AccentSchema).max(64).readonly(),
});

const LeanSchema = z.enum(['early', 'late', 'both']);
export type Lean = z.infer<typeof LeanSchema>;

export const HumanizeSchema = z.object({
  on: z.boolean(),
  /** Chooses the random numbers; the same seed gives the same notes. */
  seed: z.int().min(0).max(0xffffffff),
  shape: z.enum(['even', 'bell', 'drift']),
  /** Largest move of a start, in ms. */
  start: z.number().min(0).max(500),
  startLean: LeanSchema,
  /** Largest change of a length. */
  length: z.number().min(0).max(500),
  lengthUnit: z.enum(['percent', 'ms']),
  lengthLean: LeanSchema,
  velocityMode: z.enum(['percent', 'range']),
  /** Largest change of a velocity, in percent of it. */
  velocity: z.number().min(0).max(100),
  /** `range`: random velocities from low to high. */
  low: z.int().min(1).max(127),
  high: z.int().min(1).max(127),
  /** How much of their move a chord's notes share, 0 to 1. */
  together: Share,
});

export const SettleSchema = z.object({
  /** Of notes of one pitch that come to start together, keep the loudest only. */
  dropDoubles: z.boolean(),
});

/** What is done to a part's timing: seven stages, always in this order, each of which can be off. */
export const TreatmentSchema = z.object({
  lag: LagSchema,
  quantize: QuantizeSchema,
  lengths: LengthsSchema,
  push: PushSchema,
  velocity: VelocitySchema,
  humanize: HumanizeSchema,
  settle: SettleSchema,
});
export type Treatment = Readonly<z.infer<typeof TreatmentSchema>>;
export type Quantize = Treatment['quantize'];
export type Lengths = Treatment['lengths'];
export type Velocity = Treatment['velocity'];
export type Humanize = Treatment['humanize'];

/** Every stage off, each with the values it starts from when it is switched on. */
export const DEFAULT_TREATMENT: Treatment = {
  lag: { on: false, amount: { value: 0, unit: 'ms' } },
  quantize: {
    on: false,
    starts: true,
    grid: grid(16),
    groove: null,
    lines: 'nearest',
    strength: 1,
    times: 1,
    direction: 'both',
    tolerance: { value: 0, unit: 'ms' },
    reach: null,
    chordMs: 30,
    spread: 0,
    pedal: 'follow',
    bend: 'follow',
    pressure: 'stay',
    controller: 'stay',
  },
  lengths: {
    on: false,
    keep: 'length',
    mode: 'none',
    grid: null,
    strength: 1,
    shorten: true,
    lengthen: true,
    followSwing: false,
    gap: { value: 0, unit: 'ms' },
    fixed: 0.25,
    min: 1 / 32,
  },
  push: { on: false, amount: { value: 0, unit: 'ms' } },
  velocity: { on: false, scale: 1, level: 0, fixed: null, low: 1, high: 127, accents: [] },
  humanize: {
    on: false,
    seed: 1,
    shape: 'bell',
    start: 6,
    startLean: 'both',
    length: 0,
    lengthUnit: 'percent',
    lengthLean: 'both',
    velocityMode: 'percent',
    velocity: 0,
    low: 60,
    high: 100,
    together: 0.7,
  },
  settle: { dropDoubles: false },
};
