import { barPattern, formatGrid, isSwung, parseGrid, type Grid } from '@early-sparrow/core/grid';
import { analysePlaces, plainCandidates, type Analysis } from '@early-sparrow/core/insight';
import { gapMs, performPlan, stream, type Performed, type Plan } from './perform';

const TRUTHS = [
  '1/4',
  '1/8',
  '1/16',
  '1/32',
  '1/8T',
  '1/16T',
  '1/4T',
  '1/8 ~58%',
  '1/8 ~66%',
  '1/16 ~56%',
  '1/16 ~62%',
  '1/16 ~70%',
  '1/16+1/8T',
  '1/8+1/8T',
  '1/8.',
  '1/16 5:4',
];
const METERS = [
  [4, 4],
  [4, 4],
  [3, 4],
  [6, 8],
  [5, 4],
] as const;
const DENSITIES = ['plain', 'syncopated', 'flat', 'sparse'] as const;

/** A grid is right if no candidate with fewer lines has every true place within this many ms. */
const WITHIN_MS = 3;

/** Counts of one kind of plan. */
export interface GridScore {
  readonly name: string;
  readonly runs: number;
  readonly first: number;
  readonly two: number;
  readonly wrong: readonly string[];
}

/** Random plans of a kind. */
export function plans(runs: number, seed: number, more: (random: () => number) => Partial<Plan>): Plan[] {
  return Array.from({ length: runs }, (_, i) => {
    const random = stream(seed + i, 9);
    const of = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)];
    const grid = parseGrid(of(TRUTHS));
    const meter = of(METERS);
    const bpm = 50 + random() * 150;
    const base: Plan = {
      seed: seed + i,
      grid,
      bpm,
      meter,
      chords: 40 + Math.floor(random() * 300),
      density: of(DENSITIES),
      lagMs: -60 + random() * 120,
      jitterMs: 0,
      driftMs: 0,
      fine: 1,
    };
    const plan = { ...base, ...more(random) };
    return plan.jitterMs > 0
      ? plan
      : { ...plan, jitterMs: Math.max(2, Math.min(40, random() * 0.2 * gapMs(plan.grid, bpm, meter))) };
  }).filter((p) => p.jitterMs <= 0.2 * gapMs(p.grid, p.bpm, p.meter) + 0.01);
}

/** Measures how often the suggestion is right. */
export function scoreGrids(runs: number): GridScore[] {
  const dense = plans(runs, 1000, () => ({}));
  const sparseTruths = ['1/16', '1/32', '1/8', '1/16 ~62%'];
  const sparse = plans(runs, 50_000, (random) => ({
    grid: parseGrid(sparseTruths[Math.floor(random() * sparseTruths.length)]),
    chords: 200,
    jitterMs: 10,
    density: 'plain',
    fine: 0.06,
    bpm: 60 + random() * 60,
  }));
  return [
    score('lines used in 10 % or more of their places', dense),
    score('fine lines used in 6 %, 200 chords, 10 ms', sparse),
  ];
}

function score(name: string, list: readonly Plan[]): GridScore {
  let first = 0;
  let two = 0;
  const wrong: string[] = [];
  for (const plan of list) {
    const performed = performPlan(plan);
    const analysis = analysePlaces(performed.place, performed.time);
    const right = rightLines(performed, plan);
    const ok = analysis.fits.slice(0, 2).map((f) => isRight(f.grid, right, performed, plan));
    if (ok[0]) first++;
    if (ok[0] || ok[1]) two++;
    if (!ok[0]) wrong.push(describe(plan, analysis));
  }
  return { name, runs: list.length, first, two, wrong };
}

/** The fewest lines a bar among the candidates that hold every true place. */
export function rightLines(performed: Performed, plan: Plan): number {
  const all = [...plainCandidates().map((c) => c.grid), plan.grid].filter((g) => covers(g, performed, plan));
  return Math.min(...all.map((g) => lineCount(g, performed)));
}

export function isRight(g: Grid, fewest: number, performed: Performed, plan: Plan): boolean {
  const swung = isSwung(g) && Math.abs(g.swing - plan.grid.swing) < 0.03 ? { ...g, swing: plan.grid.swing } : g;
  return covers(swung, performed, plan) && lineCount(g, performed) <= fewest;
}

function lineCount(g: Grid, { time }: Performed): number {
  return barPattern(g, time.meter.pieces[0].barTicks, time.meter.ppq).lines.length;
}

function covers(g: Grid, { line, time }: Performed, plan: Plan): boolean {
  const { barTicks } = time.meter.pieces[0];
  const { lines } = barPattern(g, barTicks, time.meter.ppq);
  const ms = 60_000 / (plan.bpm * time.meter.ppq);
  const places = new Set([...line].map((l) => Math.round((l % barTicks) * 1000) / 1000));
  return [...places].every((at) => [...lines, barTicks].some((l) => Math.abs(l - at) * ms <= WITHIN_MS));
}

function describe(plan: Plan, { fits, chords }: Analysis): string {
  const told = fits.slice(0, 3).map((f) => `${f.text} ${f.bits.toFixed(2)} lag ${f.lagMs}`);
  return `${plan.seed} ${formatGrid(plan.grid)} ${plan.meter.join('/')} ${plan.bpm.toFixed(0)} BPM ${plan.density} ${chords} chords, jitter ${plan.jitterMs.toFixed(1)} lag ${plan.lagMs.toFixed(0)}: ${told.join(', ')}`;
}
