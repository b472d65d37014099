import type { Humanize } from '../song';
import type { TempoMap } from '../time';
import type { Draws } from './draws';
import type { Times } from './quantize';

/** Moves whole notes by their draws; no note moves further than the largest move. */
export function humanizeStarts(times: Times, draws: Draws, h: Humanize, tempo: TempoMap): void {
  if (!draws.start) return;
  const { start, end } = times;
  if (tempo.constant) {
    const most = h.start / tempo.msPerTick[0];
    for (let i = 0; i < start.length; i++) {
      const move = draws.start[i] * most;
      start[i] += move;
      end[i] += move;
    }
    return;
  }
  for (let i = 0; i < start.length; i++) {
    const moved = tempo.shift(start[i], draws.start[i] * h.start);
    end[i] += moved - start[i];
    start[i] = moved;
  }
}

/** Changes lengths by their draws, in percent of the length or in ms. */
export function humanizeLengths(times: Times, draws: Draws, h: Humanize, tempo: TempoMap): void {
  if (!draws.length) return;
  const { start, end } = times;
  const { length: shares } = draws;
  const inPercent = h.lengthUnit === 'percent';
  const most = inPercent ? h.length / 100 : h.length;
  for (let i = 0; i < start.length; i++) {
    const now = end[i];
    const moved = inPercent ? now + (now - start[i]) * shares[i] * most : tempo.shift(now, shares[i] * most);
    end[i] = Math.max(moved, start[i] + 1);
  }
}

/** Changes velocities by their draws, or replaces them by random ones from the range. */
export function humanizeVelocities(velocity: Float32Array, draws: Draws, h: Humanize): void {
  if (!draws.velocity) return;
  const { velocity: shares } = draws;
  if (h.velocityMode === 'range') {
    const low = Math.min(h.low, h.high);
    const values = Math.abs(h.high - h.low) + 1;
    for (let i = 0; i < velocity.length; i++) velocity[i] = low + Math.floor(shares[i] * values);
    return;
  }
  const most = h.velocity / 100;
  for (let i = 0; i < velocity.length; i++) velocity[i] *= 1 + shares[i] * most;
}
