import { hash3 } from '../maths';
import { counted, type Track } from '../song';
import type { TempoMap } from '../time';
import { reshape, type Shaped } from './reshape';
import type { LinesOf, Taken } from './taken';

/** What one press of *looser* changes at most: starts in ms, lengths and velocities as shares. */
const START_MS = 3;
const LENGTH_SHARE = 0.04;
const VELOCITY_SHARE = 0.04;
/** Share of the way that one press of *tighter* goes. */
const CLOSER = 0.25;
/** A chord's notes share this much of their move. */
const TOGETHER = 0.7;

/**
 * Makes notes a little looser from where they are: starts by up to 3 ms, lengths and velocities by up to 4 %, each note
 * by its own amount and a chord's notes mostly together. Pressed again it goes on.
 */
export function looser(track: Track, taken: readonly Taken[], linesOf: LinesOf, tempo: TempoMap): Shaped {
  // Another draw each time, and the same one for the same notes: redo and a reload bring back what was heard.
  const seed = taken.reduce((sum, t) => Math.imul(sum ^ Math.round(t.start * 8), 16777619), 2166136261) >>> 0;
  const draw = (key: number, property: number) => (hash3(seed, key, property) / 0xffffffff) * 2 - 1;
  return reshape(`Loosen ${counted(taken.length, 'note')}`, track, taken, ({ part, note, start, length, velocity }) => {
    const chord = Math.round(linesOf(part).nearest(start));
    const ms = START_MS * (TOGETHER * draw(chord, 1) + (1 - TOGETHER) * draw(note.id, 2));
    return {
      start: tempo.shift(start, ms),
      length: length * (1 + LENGTH_SHARE * draw(note.id, 3)),
      velocity: velocity * (1 + VELOCITY_SHARE * draw(note.id, 4)),
    };
  });
}

/**
 * Makes notes a little tighter from where they are: starts go a quarter of the way to their lines, lengths to whole steps
 * of the grid, velocities to the mean. Pressed again it goes on.
 */
export function tighter(track: Track, taken: readonly Taken[], linesOf: LinesOf): Shaped {
  const mean = taken.reduce((sum, t) => sum + t.velocity, 0) / Math.max(1, taken.length);
  const closer = (from: number, to: number) => {
    const away = Math.abs(to - from);
    // At least a whole tick, or no press would ever arrive.
    return from + Math.sign(to - from) * Math.min(away, Math.max(1, away * CLOSER));
  };
  return reshape(`Tighten ${counted(taken.length, 'note')}`, track, taken, ({ part, start, length, velocity }) => {
    const lines = linesOf(part);
    const line = lines.nearest(start);
    const step = lines.gapAt(line);
    const whole = Math.max(step, Math.round(length / step) * step);
    // Shorter than half a step is meant so, as on drums.
    const to = length < step / 2 ? length : whole;
    return { start: closer(start, line), length: closer(length, to), velocity: closer(velocity, mean) };
  });
}
