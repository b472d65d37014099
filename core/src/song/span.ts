import type { MeterMap, Ticks } from '../time';
import type { PartEvent } from './event';
import type { Note } from './note';

/** A first note at most so far before a bar or its part was meant for it: a sixteenth, in quarter notes. */
export const FIRST_NOTE_EARLY = 0.25;
/** Any note less than so far from a line was meant for it, however coarse the grid: a 32nd, in quarter notes. */
export const NEAR_LINE = 0.125;

/**
 * Where a part that was not marked in its file is taken to begin: the bar line of its first
 * note's bar, or the next one where the note lies a hair before it, at most a sixteenth.
 */
export function partStart(firstStart: Ticks, meter: MeterMap): Ticks {
  const next = meter.nextBarStart(firstStart);
  return Math.round(next - firstStart <= FIRST_NOTE_EARLY * meter.ppq ? next : meter.barStartAt(firstStart));
}

/** Where such a part ends: the first bar line after all that is in it begins. */
export function partEnd(start: Ticks, notes: readonly Note[], events: readonly PartEvent[], meter: MeterMap): Ticks {
  let last = start;
  for (const note of notes) last = Math.max(last, note.start, note.start + note.length - 1);
  for (const event of events) last = Math.max(last, event.tick);
  return Math.ceil(meter.nextBarStart(last));
}
