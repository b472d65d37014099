import * as z from 'zod';
import type { TempoMap } from './tempo';
import type { Ms, Ticks } from './units';

/** An amount of time, in milliseconds or in ticks. */
export const TimeAmountSchema = z.object({
  value: z.number().min(-60_000).max(60_000),
  unit: z.enum(['ms', 'ticks']),
});
export type TimeAmount = Readonly<z.infer<typeof TimeAmountSchema>>;

/** The tick that lies `amount` after `tick`, under the tempo that holds there. */
export function addAmount(tick: Ticks, amount: TimeAmount, tempo: TempoMap): Ticks {
  return amount.unit === 'ticks' ? tick + amount.value : tempo.shift(tick, amount.value);
}

/** An amount in ticks as it counts near `tick`. */
export function amountInTicks(amount: TimeAmount, tick: Ticks, tempo: TempoMap): Ticks {
  return addAmount(tick, amount, tempo) - tick;
}

/** One small amount of time in the three units that people read together. */
export interface ThreeUnits {
  readonly ticks: Ticks;
  /** The part of a note: 192 means a 1/192 note; null where no note that people name is near. */
  readonly noteFraction: number | null;
  readonly ms: Ms;
}

/** Parts of a note that people can read: halvings of the whole note and of its third. */
const FRACTIONS = [1, 2, 3, 4, 6, 8, 12, 16, 24, 32, 48, 64, 96, 128, 192, 256, 384];
/** An amount counts as such a part within this share of it. */
const NEAR = 0.05;

/** The same amount in ticks, as a note fraction (where one is near) and in ms. */
export function threeUnits(ticks: Ticks, ppq: number, bpm: number): ThreeUnits {
  const whole = 4 * ppq;
  const size = Math.abs(ticks);
  return {
    ticks,
    noteFraction: size > 0 ? (FRACTIONS.find((n) => Math.abs((size * n) / whole - 1) <= NEAR) ?? null) : null,
    ms: (ticks * 60_000) / (ppq * bpm),
  };
}

/** `20 ticks · 1/192 · 8.7 ms`: what a small amount of time means, for people. */
export function describeTicks(ticks: Ticks, ppq: number, bpm: number): string {
  const { noteFraction, ms } = threeUnits(ticks, ppq, bpm);
  const rounded = Math.round(ticks * 10) / 10;
  const parts = [`${rounded} ${Math.abs(rounded) === 1 ? 'tick' : 'ticks'}`];
  if (noteFraction !== null) parts.push(noteFraction === 1 ? '1' : `1/${noteFraction}`);
  parts.push(`${ms.toFixed(1)} ms`);
  return parts.join(' · ');
}
