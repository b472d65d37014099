import { Kept } from '../maths';
import type { Ticks } from '../time';
import { gcd, isSwung, stepFraction, stepTicks, type Grid, type Step } from './grid';

/** Lines closer than this are one line (ticks). */
const SAME_LINE = 0.5;

/**
 * The lines of one cycle (usually a bar), sorted, from 0 up to but without `period`,
 * with an index that finds the line at or below a place in constant time.
 */
export interface Pattern {
  readonly period: number;
  readonly lines: Float64Array;
  /** For each of `index.length` equal slots of the period: the last line at or below its start. */
  readonly index: Int32Array;
  /** Cycles, slots and lines a tick: multiplying is quicker than dividing. */
  readonly cyclesPerTick: number;
  readonly slotsPerTick: number;
  readonly linesPerTick: number;
  /** Whole ticks from each line to the next, where they are evenly spaced throughout; 0 where they are not. */
  readonly even: Ticks;
}

/** Builds a pattern from its lines. Lines closer than half a tick become one; there must be one at least. */
export function makePattern(period: number, places: Iterable<number>): Pattern {
  const sorted = Float64Array.from(places).sort();
  const kept: number[] = [];
  for (const place of sorted) {
    if (place >= period - SAME_LINE && kept.length > 0) continue;
    if (kept.length === 0 || place - kept[kept.length - 1] > SAME_LINE) kept.push(place);
  }
  const lines = Float64Array.from(kept);
  const index = new Int32Array(Math.max(1, lines.length * 2));
  let line = 0;
  for (let slot = 0; slot < index.length; slot++) {
    const at = (slot * period) / index.length;
    while (line + 1 < lines.length && lines[line + 1] <= at) line++;
    index[slot] = lines[0] <= at ? line : -1;
  }
  return {
    period,
    lines,
    index,
    cyclesPerTick: 1 / period,
    slotsPerTick: index.length / period,
    linesPerTick: lines.length / period,
    even: evenStep(lines, period),
  };
}

function evenStep(lines: Float64Array, period: number): Ticks {
  const step = period / lines.length;
  return Number.isInteger(step) && lines.every((line, k) => line === k * step) ? step : 0;
}

/**
 * The lines of a grid in one bar. A step that does not divide the bar leaves a shorter
 * last step, so that the downbeat is always a line; swing goes by pairs of steps, and a
 * lone last step is not swung.
 */
export function barPattern(g: Grid, barTicks: number, ppq: number): Pattern {
  return patterns.of(g, `${barTicks} ${ppq}`, () =>
    makePattern(barTicks, [
      ...stepPlaces(g, isSwung(g) ? g.swing : 0.5, barTicks, ppq),
      ...(g.mix ? stepPlaces(g.mix, 0.5, barTicks, ppq) : []),
    ]),
  );
}

/** By length of the bar and resolution: a grid is asked for its lines in every bar's length, again and again. */
const patterns = new Kept<Grid, string, Pattern>();

/** The lines of a grid that is counted from the song's start, over the shortest cycle in which they repeat. */
export function songPattern(g: Grid, ppq: number): Pattern {
  return barPattern(g, songPeriod(g, ppq), ppq);
}

function songPeriod(g: Grid, ppq: number): number {
  const main = stepFraction(g);
  let { num, den } = isSwung(g) ? { num: main.num * 2, den: main.den } : main;
  if (g.mix) {
    const other = stepFraction(g.mix);
    num = lcm(num * other.den, other.num * den);
    den *= other.den;
  }
  // Whole quarters: places many cycles on are then exact, which a fractional period would not give.
  return ppq * (num / gcd(num, den));
}

function stepPlaces(step: Step, swing: number, span: number, ppq: number): number[] {
  const length = stepTicks(step, ppq);
  const count = Math.max(1, Math.ceil(span / length - 1e-9));
  const places: number[] = [];
  for (let k = 0; k < count; k++) {
    const lone = k % 2 === 0 || (k + 1) * length > span + 1e-6;
    places.push(lone ? k * length : (k - 1 + 2 * swing) * length);
  }
  return places;
}

function lcm(a: number, b: number): number {
  return (a / gcd(a, b)) * b;
}
