import type { Quantize } from '../song';
import type { TempoMap } from '../time';
import { VERDICT, type Assignment } from './assign';

/** Starts and ends under way, in ticks that need not be whole. */
export interface Times {
  readonly start: Float64Array;
  readonly end: Float64Array;
}

/** The share of an offset that quantize leaves: (1 − strength)^times. */
export function remaining(strength: number, times: number): number {
  return (1 - strength) ** times;
}

/**
 * Pulls each chord towards its line. A chord's median keeps `remaining` of its offset; the
 * distances of its notes to the median shrink in step, down to `spread` at full strength.
 * Offsets are times: across a change of tempo their shares are of ms, not of ticks.
 * @param keepEnds the note's end stays where it is when its start moves
 */
export function quantizeStarts(
  times: Times,
  chords: Assignment,
  settings: Quantize,
  keepEnds: boolean,
  tempo: TempoMap,
): void {
  const left = remaining(settings.strength, settings.times);
  if (left === 1) return;
  const apart = left + (1 - left) * settings.spread;
  const { start, end } = times;
  const { first, place, line, verdict, count } = chords;
  const plain = tempo.constant;
  /** A place whose distance from `from` is a share of that of `to`. */
  const share = (from: number, to: number, of: number) =>
    plain || of === 0 ? from + (to - from) * of : tempo.shift(from, tempo.between(from, to) * of);
  for (let c = 0; c < count; c++) {
    if (verdict[c] !== VERDICT.move) continue;
    const middle = place[c];
    const target = share(line[c], middle, left);
    for (let i = first[c], to = first[c + 1]; i < to; i++) {
      const moved = plain
        ? target + (start[i] - middle) * apart
        : apart === 0
          ? target
          : tempo.shift(target, tempo.between(middle, start[i]) * apart);
      if (!keepEnds) end[i] += moved - start[i];
      start[i] = moved;
    }
  }
}
