import { gridLines, isSwung, type Grid, type SongTime } from '../grid';
import { blockBootstrap, median, type Interval } from '../maths';
import { smallestGapMs } from './suggest';

/** A player's constant delay against a grid. */
export interface Lag {
  /** ms; early is negative. */
  readonly ms: number;
  /** 95 % interval; null where the player drifts, since it would be false. */
  readonly interval: Interval | null;
  readonly drifting: boolean;
  /** The other lag that the notes allow where lines are close together; null where there is none. */
  readonly other: number | null;
}

/** Below this gap between lines a lag could as well be the one a line further. */
const AMBIGUOUS_GAP_MS = 120;

/**
 * The median offset from a grid's lines, of on-beats only where it swings, with a block bootstrap interval.
 * @param near the lag at which the grid fits best, in ms: it says which line is meant
 * @param drifting whether the player's time wanders (τ > 0 of the follow model)
 */
export function findLag(place: Float64Array, g: Grid, near: number, time: SongTime, drifting: boolean): Lag {
  const offsets = onBeatOffsets(place, g, near, time);
  if (offsets.length === 0) return { ms: near, interval: null, drifting, other: null };
  const ms = median(offsets);
  const interval = drifting
    ? null
    : blockBootstrap(offsets.length, (picked) => median(Float64Array.from(picked, (i) => offsets[i])));
  const gap = smallestGapMs(g, time, place[0]);
  const other = gap < AMBIGUOUS_GAP_MS ? (ms > 0 ? ms - gap : ms + gap) : null;
  return { ms, interval, drifting, other };
}

/** Offsets in ms of the chords that tell the lag, each from the line it takes once `near` is taken away. */
function onBeatOffsets(place: Float64Array, g: Grid, near: number, time: SongTime): Float64Array {
  const lines = gridLines(g, time);
  const onBeats = isSwung(g) ? gridLines({ ...g, swing: 0.5 }, time) : null;
  const { tempo } = time;
  const offsets: number[] = [];
  for (const tick of place) {
    const line = lines.nearest(tempo.shift(tick, -near));
    // With swing, a line of the straight grid too is an on-beat.
    if (onBeats && Math.abs(onBeats.nearest(line) - line) > 0.5) continue;
    offsets.push(tempo.between(line, tick));
  }
  return Float64Array.from(offsets);
}

/** Of a lag and its other possibility, the one that lies closer to the other tracks' median lag. */
export function agreeingLag(lag: Lag, others: readonly number[]): number {
  if (lag.other === null || others.length === 0) return lag.ms;
  const middle = median(others);
  return Math.abs(lag.other - middle) + 10 < Math.abs(lag.ms - middle) ? lag.other : lag.ms;
}
