import { gridLines, isSwung, type Grid, type SongTime } from '../grid';
import type { Followed } from '../follow';
import { median, middleInterval, type Interval } from '../maths';
import { tempoOf, type Part, type SongTimes } from '../song';

/** A player's constant delay against a grid. */
export interface Lag {
  /** ms; early is negative. */
  readonly ms: number;
  /** 95 % interval; null where the player drifts, since it would be false. */
  readonly interval: Interval | null;
  readonly drifting: boolean;
  /** Nine in ten chords' time is no further from the lag than this, in ms; 0 where the player does not drift. */
  readonly wanderMs: number;
  /** Whether no explanation of the playing with another lag is near. */
  readonly sure: boolean;
}

/**
 * The median offset from a grid's lines, of on-beats only where it swings, with its interval ({@link middleInterval}).
 * @param near the lag at which the grid fits best, in ms: it says which line is meant
 */
export function findLag(place: Float64Array, g: Grid, near: number, time: SongTime): Lag {
  const offsets = onBeatOffsets(place, g, near, time);
  const ms = offsets.length === 0 ? near : median(offsets);
  const interval = offsets.length === 0 ? null : middleInterval(offsets, ms);
  return { ms, interval, drifting: false, wanderMs: 0, sure: true };
}

/** The middle that a wandering player comes back to; an interval for it would be false. */
export function wanderingLag({ lag, wander }: Followed): Lag {
  return { ms: lag, interval: null, drifting: true, wanderMs: wander, sure: true };
}

/**
 * Whether a wandering player's time leaves the beat: then it is played at another tempo, or without a click, and a lag
 * says nothing.
 */
export function leavesBeat({ drifting, wanderMs }: Lag, { start }: Part, song: SongTimes): boolean {
  const beat = tempoOf(song).between(start, start + song.ppq);
  return drifting && wanderMs > beat / 2;
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
