import { z } from 'zod';

/** Raw bytes; checked by tag, since an array may come from another window or worker. */
export const BytesSchema = z.custom<Uint8Array>(
  (v) => Object.prototype.toString.call(v) === '[object Uint8Array]',
  'bytes are expected',
);
const Value7 = z.int().min(0).max(127);
const Channel = z.int().min(0).max(15);
const place = {
  tick: z.int().min(0),
  /** Place among all events of its source track, so that what happens at one tick keeps its order. */
  order: z.number(),
  /** Where it was recorded or imported, once Keep has given it another place. */
  take: z.object({ tick: z.int().min(0), order: z.number() }).optional(),
  /** It was kept alone: no treatment moves it any more. */
  fixed: z.literal(true).optional(),
};

/** Everything of a track that is not a note, tempo or meter: kept as it came, bytes included. */
export const TrackEventSchema = z.discriminatedUnion('type', [
  z.object({ ...place, type: z.literal('controller'), channel: Channel, controller: Value7, value: Value7 }),
  z.object({ ...place, type: z.literal('bend'), channel: Channel, value: z.int().min(-8192).max(8191) }),
  z.object({ ...place, type: z.literal('pressure'), channel: Channel, value: Value7 }),
  z.object({ ...place, type: z.literal('key-pressure'), channel: Channel, pitch: Value7, value: Value7 }),
  z.object({ ...place, type: z.literal('program'), channel: Channel, program: Value7 }),
  /** A note-off that ends no note. */
  z.object({ ...place, type: z.literal('stray-off'), channel: Channel, pitch: Value7, velocity: Value7.nullable() }),
  z.object({ ...place, type: z.literal('sysex'), data: BytesSchema }),
  /** A continued or escaped system exclusive message (F7). */
  z.object({ ...place, type: z.literal('sysex-part'), data: BytesSchema }),
  z.object({ ...place, type: z.literal('meta'), meta: Value7, data: BytesSchema }),
]);
export type TrackEvent = Readonly<z.infer<typeof TrackEventSchema>>;

/** An event where it was recorded or imported. */
export function eventAsTaken(event: TrackEvent): TrackEvent {
  if (!event.take) return event;
  const { take, fixed: _fixed, ...rest } = event;
  return { ...rest, ...take } as TrackEvent;
}

/** Kept events come before all others at their tick, as events that moved do. */
const BEFORE_OTHERS = 1e9;

/** An event whose corrected tick becomes its own. @param fixed whether it leaves every treatment */
export function keepEvent(event: TrackEvent, tick: number, fixed: boolean): TrackEvent {
  const { tick: from, order } = event;
  const take = event.take ?? { tick: from, order };
  const place = tick === from ? { order } : { order: take.order - BEFORE_OTHERS, take };
  return { ...event, ...place, tick, ...(fixed ? { fixed: true as const } : {}) };
}

/** Controllers that count as pedals: damper, sostenuto, soft and their kin (MIDI 1.0, controllers 64 to 69). */
export function isPedal(event: TrackEvent): boolean {
  return event.type === 'controller' && event.controller >= 64 && event.controller <= 69;
}
