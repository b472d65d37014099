import type { Ms, Ticks } from './units';

/** One tempo from `tick` on, in microseconds per quarter note (as in a standard MIDI file). */
export interface TempoChange {
  readonly tick: Ticks;
  readonly usPerQuarter: number;
}

/** 120 BPM, the tempo of a file that names none (Standard MIDI Files 1.0, RP-001). */
export const DEFAULT_US_PER_QUARTER = 500_000;

/**
 * Converts between ticks and milliseconds through any number of tempo changes.
 * Both ways are exact at the borders of the pieces; ticks may be fractional.
 */
export class TempoMap {
  /** Start of each piece in ticks; the first is 0. */
  readonly ticks: Float64Array;
  /** Start of each piece in ms. */
  readonly ms: Float64Array;
  /** Length of one tick in each piece, in ms. */
  readonly msPerTick: Float64Array;
  /** Ticks times this, divided by {@link divisor}, are ms: one rounding fewer than by `msPerTick`. */
  private readonly us: Float64Array;
  private readonly divisor: number;

  constructor(
    readonly ppq: number,
    changes: readonly TempoChange[],
  ) {
    const pieces = distinctPieces(changes);
    const count = pieces.length;
    this.ticks = Float64Array.from(pieces, (p) => p.tick);
    this.msPerTick = Float64Array.from(pieces, (p) => p.usPerQuarter / (1000 * ppq));
    this.us = Float64Array.from(pieces, (p) => p.usPerQuarter);
    this.divisor = 1000 * ppq;
    this.ms = new Float64Array(count);
    for (let i = 1; i < count; i++) {
      this.ms[i] = this.ms[i - 1] + ((this.ticks[i] - this.ticks[i - 1]) * this.us[i - 1]) / this.divisor;
    }
  }

  /** Whether one tempo holds throughout. */
  get constant(): boolean {
    return this.ticks.length === 1;
  }

  /** Time of a tick in ms from the song's start. Negative ticks use the first tempo. */
  toMs(tick: Ticks): Ms {
    const i = pieceAt(this.ticks, tick);
    return this.ms[i] + ((tick - this.ticks[i]) * this.us[i]) / this.divisor;
  }

  /** Tick (fractional) at a time in ms from the song's start. */
  toTick(ms: Ms): Ticks {
    const i = pieceAt(this.ms, ms);
    return this.ticks[i] + ((ms - this.ms[i]) * this.divisor) / this.us[i];
  }

  /** The tick that lies `ms` after `tick` (before it when negative). */
  shift(tick: Ticks, ms: Ms): Ticks {
    if (ms === 0) return tick;
    return this.constant ? tick + (ms * this.divisor) / this.us[0] : this.toTick(this.toMs(tick) + ms);
  }

  /** Signed time from one tick to another, in ms. */
  between(from: Ticks, to: Ticks): Ms {
    return this.constant ? ((to - from) * this.us[0]) / this.divisor : this.toMs(to) - this.toMs(from);
  }

  /** Signed times between many pairs of ticks, in ms: {@link between} for long parts. */
  betweenEach(from: ArrayLike<Ticks>, to: ArrayLike<Ticks>): Float64Array {
    const ms = new Float64Array(to.length);
    if (!this.constant) {
      for (let i = 0; i < ms.length; i++) ms[i] = this.toMs(to[i]) - this.toMs(from[i]);
      return ms;
    }
    const [us] = this.us;
    const { divisor } = this;
    for (let i = 0; i < ms.length; i++) ms[i] = ((to[i] - from[i]) * us) / divisor;
    return ms;
  }

  /** Tempo at a tick, in quarter notes a minute. */
  bpmAt(tick: Ticks): number {
    return 60e6 / this.us[pieceAt(this.ticks, tick)];
  }
}

/** Index of the last entry that is not above `value`; 0 where there is none. */
export function pieceAt(sorted: ArrayLike<number>, value: number): number {
  let low = 0;
  let high = sorted.length - 1;
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (sorted[middle] <= value) low = middle;
    else high = middle - 1;
  }
  return low;
}

/** Sorted pieces from tick 0 on; of several changes at one tick the last one counts. */
function distinctPieces(changes: readonly TempoChange[]): TempoChange[] {
  const pieces: TempoChange[] = [{ tick: 0, usPerQuarter: DEFAULT_US_PER_QUARTER }];
  const sorted = [...changes].sort((a, b) => a.tick - b.tick);
  for (const change of sorted) {
    const last = pieces[pieces.length - 1];
    if (change.tick <= last.tick) pieces[pieces.length - 1] = { ...change, tick: last.tick };
    else if (change.usPerQuarter !== last.usPerQuarter) pieces.push(change);
  }
  return pieces;
}
