import { gridLines, isSwung, stepTicks, type Grid, type SongTime } from '../grid';
import { median } from '../maths';
import type { Groove, Slot } from '../song';

/** Notes that a groove is measured from, in order of their starts. Ticks; velocities 1 to 127. */
export interface LiftNotes {
  readonly start: ArrayLike<number>;
  readonly velocity: ArrayLike<number>;
}

export interface LiftSettings {
  readonly name: string;
  /** The suggested grid, swing included: it says which slot each note is meant for. */
  readonly grid: Grid;
  readonly bars: Groove['bars'];
  readonly time: SongTime;
}

/** No slot is louder than this ratio to the mean, which is what a groove can hold. */
const LOUDEST = 8;
/** Slots stay at least this far apart, in steps, so that their lines keep their order. */
const APART = 0.02;

/**
 * Measures a groove: each note goes to its line of the swung grid (by straight lines, half the off-beats of a
 * hard swing would fall into the next slot), the lag of the notes on the beats is removed, and each slot takes its median offset
 * and velocity. An empty slot takes the mean of its place in other beats, if there is one, else none.
 * @returns null where there are no notes
 */
export function liftGroove(notes: LiftNotes, { name, grid, bars, time }: LiftSettings): Groove | null {
  if (notes.start.length === 0) return null;
  const { meter } = time;
  const straight = gridLines({ ...grid, swing: 0.5, mix: null, shift: { value: 0, unit: 'ms' } }, time);
  const swung = gridLines({ ...grid, mix: null, shift: { value: 0, unit: 'ms' } }, time);
  const step = stepTicks({ value: grid.value, shape: 'straight' }, meter.ppq);
  const piece = meter.pieceAt(notes.start[0]);
  const perBar = Math.max(1, Math.round(piece.barTicks / step));
  const offsets: number[][] = Array.from({ length: perBar * bars }, () => []);
  const velocities: number[][] = Array.from({ length: perBar * bars }, () => []);
  const delay = isSwung(grid) ? (grid.swing - 0.5) * 2 * step : 0;
  const onBeats: number[] = [];
  let sum = 0;
  for (let i = 0; i < notes.start.length; i++) {
    const line = swung.nearest(notes.start[i]);
    const own =
      Math.abs(straight.nearest(line) - line) < 0.5 && !isOffBeat(line, step, delay, meter.barStartAt(line + 0.5))
        ? line
        : line - delay;
    const index = Math.round((own - piece.tick) / step);
    const slot = ((index % offsets.length) + offsets.length) % offsets.length;
    const offset = (notes.start[i] - own) / step;
    offsets[slot].push(offset);
    velocities[slot].push(notes.velocity[i]);
    sum += notes.velocity[i];
    if (Math.abs((own - piece.tick) % piece.beatTicks) < 0.5) onBeats.push(offset);
  }
  const lag = onBeats.length > 0 ? median(onBeats) : 0;
  const mean = sum / notes.start.length;
  const measured = offsets.map((list, k): Slot | null =>
    list.length === 0
      ? null
      : { offset: median(list) - lag, velocity: Math.min(LOUDEST, median(velocities[k]) / mean), count: list.length },
  );
  return {
    kind: 'early-sparrow-groove',
    version: 1,
    name,
    value: grid.value,
    bars,
    slots: inOrder(fillEmpty(measured, piece.beatTicks / step)),
  };
}

function isOffBeat(line: number, step: number, delay: number, bar: number): boolean {
  return delay !== 0 && Math.abs((((line - bar - delay) / step) % 2) - 1) < 0.01;
}

function fillEmpty(slots: readonly (Slot | null)[], perBeat: number): Slot[] {
  return slots.map((slot, k): Slot => {
    if (slot) return slot;
    const alike = slots.filter((s, j): s is Slot => s !== null && perBeat >= 1 && (j - k) % Math.round(perBeat) === 0);
    const mean = (of: (s: Slot) => number) => alike.reduce((sum, s) => sum + of(s), 0) / alike.length;
    return alike.length === 0
      ? { offset: 0, velocity: 1, count: 0 }
      : { offset: mean((s) => s.offset), velocity: mean((s) => s.velocity), count: 0 };
  });
}

function inOrder(slots: readonly Slot[]): Slot[] {
  const ordered: Slot[] = [];
  for (const [k, slot] of slots.entries()) {
    const least = k === 0 ? -1 : ordered[k - 1].offset - 1 + APART;
    ordered.push({ ...slot, offset: Math.max(-1, Math.min(1, Math.max(slot.offset, least))) });
  }
  return ordered;
}
