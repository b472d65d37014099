import type { TempoChange } from './tempo';
import type { Ticks } from './units';

/** A tempo that goes evenly, over ticks, from one to another. BPM are quarter notes a minute. */
export interface Ramp {
  readonly from: Ticks;
  readonly to: Ticks;
  readonly fromBpm: number;
  readonly toBpm: number;
}

/** No place of a ramp is further off in its steps than this, in ms; what is left to half a ms is for rounding. */
const CLOSE_MS = 0.4;
const MOST_STEPS = 1 << 14;

/**
 * The tempi that a ramp is written as, the last of them at its end: each step lasts as long as the ramp does there, and
 * no place is more than half a ms off, if the ramp has ticks enough. Whole ticks, whole microseconds a quarter.
 */
export function rampSteps(ppq: number, ramp: Ramp): TempoChange[] {
  const { from, to, toBpm } = ramp;
  let count = 1;
  while (count < Math.min(MOST_STEPS, to - from) && furthest(ppq, ramp, count) > CLOSE_MS) count *= 2;
  const steps: TempoChange[] = [];
  // What rounding to microseconds leaves goes into the next step: nothing adds up.
  let left = 0;
  for (let k = 0; k < count; k++) {
    const [begin, end] = [borderOf(ramp, count, k), borderOf(ramp, count, k + 1)];
    if (end === begin) continue;
    const us = (rampMs(ppq, ramp, end) - rampMs(ppq, ramp, begin)) * 1000 + left;
    const usPerQuarter = Math.max(1, Math.round((us * ppq) / (end - begin)));
    left = us - (usPerQuarter * (end - begin)) / ppq;
    steps.push({ tick: begin, usPerQuarter });
  }
  return [...steps, { tick: to, usPerQuarter: Math.round(60e6 / toBpm) }];
}

/** Time from a ramp's start to a tick in it, in ms: the integral of 60000 / (ppq · bpm). */
export function rampMs(ppq: number, { from, to, fromBpm, toBpm }: Ramp, tick: Ticks): number {
  const slope = (toBpm - fromBpm) / (to - from);
  const since = tick - from;
  if (Math.abs(slope * (to - from)) < 1e-9) return (since * 60_000) / (ppq * fromBpm);
  return (60_000 / (ppq * slope)) * Math.log1p((slope * since) / fromBpm);
}

function borderOf({ from, to }: Ramp, count: number, k: number): Ticks {
  return Math.round(from + ((to - from) * k) / count);
}

/** How far a place is off at most, in ms: the slow end's step, in which the curve bends most, halfway. */
function furthest(ppq: number, ramp: Ramp, count: number): number {
  const k = ramp.fromBpm < ramp.toBpm ? 0 : count - 1;
  const [begin, end] = [borderOf(ramp, count, k), borderOf(ramp, count, k + 1)];
  const at = (tick: Ticks) => rampMs(ppq, ramp, tick);
  const quarters = [0.25, 0.5, 0.75].map((share) => {
    const chord = at(begin) + (at(end) - at(begin)) * share;
    return Math.abs(at(begin + (end - begin) * share) - chord);
  });
  return Math.max(...quarters);
}
