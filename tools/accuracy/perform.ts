import { barPattern, parseGrid, type Grid, type SongTime } from '@early-sparrow/core/grid';
import { hash3, normalQuantile } from '@early-sparrow/core/maths';
import type { Heard } from '@early-sparrow/core/insight';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';

/** What a generated player plays and how. */
export interface Plan {
  readonly seed: number;
  readonly grid: Grid;
  readonly bpm: number;
  readonly meter: readonly [number, number];
  readonly chords: number;
  /** Share of places that are played, by kind of place. */
  readonly density: 'plain' | 'syncopated' | 'flat' | 'sparse';
  readonly lagMs: number;
  readonly jitterMs: number;
  /** Random walk of the player's time, in ms a chord. */
  readonly driftMs: number;
  /** Share of the finest lines' places that are played; 1 leaves them to the density. */
  readonly fine: number;
  /** A wandering beside the walk, in ms at a time in quarter notes. */
  readonly wander?: (quarter: number) => number;
  /** Half of the jitter's variance is long-range correlated (1/f; Hennig et al. 2011, PLoS ONE 6:e26457). */
  readonly correlated?: boolean;
  /** How much louder notes on the beat are, on the average; single notes differ by 8. By default they are no louder. */
  readonly accent?: number;
}

export interface Performed {
  readonly time: SongTime;
  /** Played places of chords in ticks, ascending. */
  readonly place: Float64Array;
  /** Their true lines in ticks, in the same order. */
  readonly line: Float64Array;
}

/** A performance with what each chord sounds like, in the same order. */
export interface Sounding extends Performed {
  readonly heard: readonly Heard[];
}

const PPQ = 960;

/** Random numbers for one purpose. */
export function stream(seed: number, purpose: number): () => number {
  let i = 0;
  return () => (hash3(seed, i++, purpose) + 0.5) / 2 ** 32;
}

/** Plays a plan. The truth is known by construction. */
export function performPlan(plan: Plan): Sounding {
  const meter = new MeterMap(PPQ, [{ tick: 0, numerator: plan.meter[0], denominator: plan.meter[1] }]);
  const tempo = new TempoMap(PPQ, [{ tick: 0, usPerQuarter: 60e6 / plan.bpm }]);
  const { barTicks } = meter.pieces[0];
  const { lines } = barPattern(plan.grid, barTicks, PPQ);
  const coarse = coarseLines(plan, barTicks);
  const chance = stream(plan.seed, 1);
  const noise = stream(plan.seed, 2);
  const walk = stream(plan.seed, 3);
  // A rhythm of two bars that comes again with changes, as music does.
  const pattern = Array.from(
    { length: lines.length * 2 },
    (_, k) => chance() < density(plan, lines, coarse, k % lines.length),
  );
  const loud = stream(plan.seed, 4);
  const { beatTicks } = meter.pieces[0];
  const played: { at: number; line: number; heard: Heard }[] = [];
  let drift = 0;
  const slow = pinkNoise(plan.seed);
  for (let k = 0; played.length < plan.chords && k < 400_000; k++) {
    const bar = Math.floor(k / lines.length);
    const inBar = k % lines.length;
    const usual = pattern[k % pattern.length];
    const wanted = chance() < 0.25 ? chance() < density(plan, lines, coarse, inBar) : usual;
    if (!wanted) continue;
    const line = (bar + 1) * barTicks + lines[inBar];
    drift += plan.driftMs * normalQuantile(walk());
    const own = normalQuantile(noise());
    const jitter = plan.correlated ? Math.SQRT1_2 * (own + slow(played.length)) : own;
    const wandered = plan.lagMs + drift + (plan.wander?.(line / PPQ) ?? 0);
    const strong = line % beatTicks < 0.5 && loud() < 0.7;
    const velocity = Math.round(72 + (strong ? (plan.accent ?? 0) : 0) + 8 * normalQuantile(loud()));
    const heard = { velocity: Math.max(1, Math.min(127, velocity)), pitch: 60, notes: 1 };
    played.push({ at: tempo.shift(line, wandered + plan.jitterMs * jitter), line, heard });
  }
  played.sort((a, b) => a.at - b.at);
  return {
    time: { tempo, meter },
    place: Float64Array.from(played, (p) => Math.max(0, Math.round(p.at))),
    line: Float64Array.from(played, (p) => p.line),
    heard: played.map((p) => p.heard),
  };
}

/** A normal number, by Box & Muller (1958): a test draws millions. */
export function quickNormal(seed: number, i: number, purpose: number): number {
  const [u, v] = [hash3(seed, i, purpose), hash3(seed, i, purpose + 1000)];
  return Math.sqrt(-2 * Math.log((u + 0.5) / 2 ** 32)) * Math.cos((2 * Math.PI * v) / 2 ** 32);
}

/** Noise with a 1/f spectrum and unit variance: one new normal number each 1, 2, 4 … 512 chords (after Voss; Gardner 1978). */
export function pinkNoise(seed: number): (i: number) => number {
  const octaves = 10;
  return (i) => {
    let sum = 0;
    for (let o = 0; o < octaves; o++) sum += quickNormal(seed, i >> o, 40 + o);
    return sum / Math.sqrt(octaves);
  };
}

/** Lines that a grid twice as coarse has too. */
function coarseLines(plan: Plan, barTicks: number): ReadonlySet<number> {
  const { grid } = plan;
  const value = Math.max(1, grid.value / 2) as Grid['value'];
  const shape = typeof grid.shape === 'string' ? grid.shape : 'straight';
  const { lines } = barPattern({ ...parseGrid('1/4'), value, shape }, barTicks, PPQ);
  return new Set([...lines].map(Math.round));
}

function density(plan: Plan, lines: Float64Array, coarse: ReadonlySet<number>, k: number): number {
  const strong = coarse.has(Math.round(lines[k]));
  if (!strong && plan.fine < 1) return plan.fine;
  switch (plan.density) {
    case 'plain':
      return strong ? 0.85 : 0.4;
    case 'syncopated':
      return strong ? 0.35 : 0.7;
    case 'flat':
      return 0.6;
    case 'sparse':
      return strong ? 0.3 : 0.15;
  }
}

/** Distance between a grid's closest lines, in ms. */
export function gapMs(grid: Grid, bpm: number, meter: readonly [number, number]): number {
  const barTicks = (meter[0] * 4 * PPQ) / meter[1];
  const { lines } = barPattern(grid, barTicks, PPQ);
  const gaps = [...lines].map((line, i) => (lines[i + 1] ?? barTicks) - line);
  return (Math.min(...gaps) * 60_000) / (bpm * PPQ);
}

/** How many lines are not those that were meant; both in ticks, one a chord. */
export function wrongLines(found: Float64Array, truth: Float64Array): number {
  return found.reduce((n, l, i) => n + (Math.abs(l - truth[i]) > 1 ? 1 : 0), 0);
}
