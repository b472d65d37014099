import * as z from 'zod';
import { BytesSchema, ChannelSchema, OrderSchema, TickSchema, Value7 } from './units';

const place = {
  tick: TickSchema,
  /** Where it stood in its file; absent for what came about here. */
  order: OrderSchema.optional(),
  /** Where it was recorded or imported, once Keep has given it another place. */
  take: z.object({ tick: TickSchema, order: OrderSchema.optional() }).optional(),
  /** It was kept alone: no treatment moves it any more. */
  fixed: z.literal(true).optional(),
};

/** What a player does beside the keys, on one channel: it belongs to a part and goes where that goes. */
export const PartEventSchema = z.discriminatedUnion('type', [
  z.object({ ...place, type: z.literal('controller'), channel: ChannelSchema, controller: Value7, value: Value7 }),
  z.object({ ...place, type: z.literal('bend'), channel: ChannelSchema, value: z.int().min(-8192).max(8191) }),
  z.object({ ...place, type: z.literal('pressure'), channel: ChannelSchema, value: Value7 }),
  z.object({ ...place, type: z.literal('key-pressure'), channel: ChannelSchema, pitch: Value7, value: Value7 }),
]);
export type PartEvent = Readonly<z.infer<typeof PartEventSchema>>;

/** What belongs to a track and to none of its parts; no treatment moves it. */
export const SetupEventSchema = z.discriminatedUnion('type', [
  ...PartEventSchema.options,
  z.object({ ...place, type: z.literal('program'), channel: ChannelSchema, program: Value7 }),
  /** A note-off that ends no note. */
  z.object({
    ...place,
    type: z.literal('stray-off'),
    channel: ChannelSchema,
    pitch: Value7,
    velocity: Value7.nullable(),
  }),
  z.object({ ...place, type: z.literal('sysex'), data: BytesSchema }),
  /** A continued or escaped system exclusive message (F7). */
  z.object({ ...place, type: z.literal('sysex-part'), data: BytesSchema }),
  z.object({ ...place, type: z.literal('meta'), meta: Value7, data: BytesSchema }),
]);
export type SetupEvent = Readonly<z.infer<typeof SetupEventSchema>>;

/** Everything of a track that is not a note, tempo, meter or marker: kept as it came, bytes included. */
export type TrackEvent = SetupEvent;

/** An event where it was recorded or imported. */
export function eventAsTaken<E extends TrackEvent>(event: E): E {
  if (!event.take) return event;
  const { take, fixed: _fixed, order: _order, ...rest } = event;
  return { ...rest, ...take } as E;
}

/** Kept events come before all others at their tick, as events that moved do. */
const BEFORE_OTHERS = 1e9;

/** An event whose corrected tick becomes its own. @param fixed whether it leaves every treatment */
export function keepEvent<E extends TrackEvent>(event: E, tick: number, fixed: boolean): E {
  const { tick: from, order } = event;
  const take = event.take ?? { tick: from, ...(order === undefined ? {} : { order }) };
  const place = tick === from ? {} : { order: (take.order ?? 0) - BEFORE_OTHERS, take };
  return { ...event, ...place, tick, ...(fixed ? { fixed: true as const } : {}) };
}

/** Whether it is of a kind that belongs to a part. */
export function isPartEvent(event: TrackEvent): event is PartEvent {
  const { type } = event;
  return type === 'controller' || type === 'bend' || type === 'pressure' || type === 'key-pressure';
}

/** Controllers that count as pedals: damper, sostenuto, soft and their kin (MIDI 1.0, controllers 64 to 69). */
export function isPedalNumber(controller: number): boolean {
  return controller >= 64 && controller <= 69;
}

/** Whether an event moves such a pedal. */
export function isPedal(event: TrackEvent): boolean {
  return event.type === 'controller' && isPedalNumber(event.controller);
}

/** Controller of a note's third dimension, beside its bend and pressure (MIDI Polyphonic Expression 1.0, RP-053). */
export const THIRD_DIMENSION = 74;
