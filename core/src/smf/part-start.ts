import type { MeterMap } from '../time';

/** A first note this close before a bar line (in quarter notes) was meant for that bar. */
const HAIR = 0.25;

/**
 * Where a part that was not marked in its file is taken to begin: the bar line of its first
 * note's bar, or the next one where the note lies a hair before it, at most a sixteenth.
 */
export function partStart(firstStart: number, meter: MeterMap): number {
  const next = meter.nextBarStart(firstStart);
  return next - firstStart <= HAIR * meter.ppq ? next : meter.barStartAt(firstStart);
}
