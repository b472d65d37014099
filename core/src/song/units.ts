import * as z from 'zod';
import type { Ticks } from '../time';

/** A place or length in whole ticks from the song's start. */
export const TickSchema: z.ZodType<Ticks> = z.int().min(0);
export const Value7 = z.int().min(0).max(127);
export const ChannelSchema = z.int().min(0).max(15);
/** A name that a person gives. */
export const NameSchema = z.string().min(1).max(200);
/** An index into the palette; null for none of its own. */
export const ColourSchema = z.int().min(0).max(11).nullable();
/** Place among all events of a source track, so that what happens at one tick keeps its order. */
export const OrderSchema = z.number();

/** Raw bytes; checked by tag, since an array may come from another window or worker. */
export const BytesSchema = z.custom<Uint8Array>(
  (v) => Object.prototype.toString.call(v) === '[object Uint8Array]',
  'bytes are expected',
);
