import { formatGrid, gridLines, isSwung, parseGrid, stepTicks } from '@early-sparrow/core/grid';
import { followLines, oracleLines } from '@early-sparrow/core/follow';
import { analysePlaces, salience } from '@early-sparrow/core/insight';
import { normalQuantile } from '@early-sparrow/core/maths';
import { isRight, rightLines } from './grids';
import { gapMs, performPlan, stream, wrongLines, type Performed, type Plan } from './perform';

/** A kind of player: what wanders, and by how much of the smallest gap at most. */
export const PLAYERS = ['steady', 'correlated', 'rubato', 'returning', 'rush', 'walk', 'deep', 'far'] as const;
export type Player = (typeof PLAYERS)[number];

export interface Take {
  readonly plan: Plan;
  readonly performed: Performed;
  /** Largest drift, as a share of the smallest gap. */
  readonly depth: number;
}

const GRIDS = ['1/16', '1/16', '1/8', '1/8T', '1/16 ~60%', '1/8 ~64%', '1/16+1/8T', '1/32', '1/16T'];
const METERS = [
  [4, 4],
  [4, 4],
  [4, 4],
  [3, 4],
  [5, 4],
  [6, 8],
  [7, 8],
] as const;

/** @param only this grid, played sparsely; by default any, played in any way */
export function takeOf(player: Player, seed: number, only?: string): Take {
  const random = stream(seed, 9);
  const any = GRIDS[Math.floor(random() * GRIDS.length)];
  const grid = parseGrid(only ?? any);
  const bpm = 70 + random() * 80;
  const meter = METERS[Math.floor(random() * METERS.length)];
  const gap = gapMs(grid, bpm, meter);
  const lagMs = Math.max(-60, Math.min(60, 18 * normalQuantile(random())));
  const depth = 0.2 + random() * 0.5;
  const base: Plan = {
    seed,
    grid,
    bpm,
    meter,
    chords: 120 + Math.floor(random() * 300),
    density: only ? 'sparse' : (['plain', 'syncopated', 'flat', 'sparse'] as const)[Math.floor(random() * 4)],
    lagMs,
    jitterMs: Math.max(3, (0.04 + random() * 0.11) * gap),
    driftMs: 0,
    fine: 1,
  };
  const plan = { ...base, ...wanderOf(player, random, depth * gap, base) };
  const performed = performPlan(plan);
  return { plan, performed, depth };
}

function wanderOf(player: Player, random: () => number, deep: number, base: Plan): Partial<Plan> {
  switch (player) {
    case 'steady':
      return {};
    case 'correlated':
      return { correlated: true };
    case 'deep':
    case 'rubato': {
      // Breathes by phrases of some bars and is back at the click in between.
      const bars = 4 + random() * 12;
      const phase = random() * 2 * Math.PI;
      const most = player === 'deep' ? 1.9 * deep : deep;
      return { wander: (q) => most * Math.sin((2 * Math.PI * q) / (4 * bars) + phase) };
    }
    case 'returning': {
      const bars = 4 + random() * 8;
      const path = new Map<number, number>();
      const noise = stream(base.seed, 21);
      const rho = Math.exp(-1 / (4 * bars));
      let last = 0;
      for (let q = 0; q < 4000; q++) {
        last = rho * last + Math.sqrt(1 - rho * rho) * 0.5 * deep * normalQuantile(noise());
        path.set(q, last);
      }
      const at = (q: number) => path.get(q) ?? 0;
      return { wander: (q) => at(Math.floor(q)) * (1 - (q % 1)) + at(Math.floor(q) + 1) * (q % 1) };
    }
    case 'rush': {
      const length = 60 + random() * 240;
      const way = random() < 0.7 ? -1 : 1;
      return { wander: (q) => way * deep * Math.min(1, q / length) };
    }
    case 'far':
      return { driftMs: (0.04 + random() * 0.04) * gapMs(base.grid, base.bpm, base.meter) };
    case 'walk':
      return { driftMs: (0.01 + random() * 0.03) * gapMs(base.grid, base.bpm, base.meter) };
  }
}

/** Wrong lines by nearest after the lag that was found, and by follow. */
export interface WanderScore {
  readonly player: Player;
  readonly takes: number;
  readonly nearest: number;
  readonly follow: number;
  /** One who knows unevenness, spread, pull and lag, but not the lines. */
  readonly oracle: number;
  /** Takes in which follow has more wrong lines than nearest, by over one chord in fifty. */
  readonly worse: readonly string[];
  readonly lagErrors: readonly number[];
}

export function scoreWander(player: Player, runs: number, seed: number): WanderScore {
  let [chords, nearestWrong, followWrong, oracleWrong] = [0, 0, 0, 0];
  const worse: string[] = [];
  const lagErrors: number[] = [];
  for (let i = 0; i < runs; i++) {
    const { plan, performed, depth } = takeOf(player, seed + i);
    const { place, line, time } = performed;
    const lines = gridLines(plan.grid, time);
    const unit = stepTicks(plan.grid, time.meter.ppq);
    const lag = analysePlaces(place, time).lag?.ms ?? 0;
    const nearest = place.map((t) => lines.nearest(time.tempo.shift(t, -lag)));
    const followed = followLines(place, lines, time, plan.grid);
    const [a, b] = [wrongLines(nearest, line), wrongLines(followed.line, line)];
    chords += place.length;
    nearestWrong += a;
    followWrong += b;
    oracleWrong += wrongLines(oracleLines(place, line, lines, time, plan.grid), line);
    const middle = middleOf(performed);
    lagErrors.push(Math.abs(followed.lag - middle));
    if (b > a + place.length / 50) {
      const { sigma, wander } = followed.model;
      worse.push(
        `seed ${seed + i}: ${a} → ${b} of ${place.length}, lag ${plan.lagMs.toFixed(0)} middle ${middle.toFixed(0)} told ${followed.lag.toFixed(0)}, step ${((unit * 60000) / plan.bpm / 960).toFixed(0)} ms, depth ${depth.toFixed(2)}, jitter ${plan.jitterMs.toFixed(0)}; ${sigma} ${JSON.stringify(wander)}`,
      );
    }
  }
  return {
    player,
    takes: runs,
    nearest: nearestWrong / chords,
    follow: followWrong / chords,
    oracle: oracleWrong / chords,
    worse,
    lagErrors,
  };
}

/** Median of what was played against what was meant: the lag with the middle of the drift. */
export function middleOf({ place, line, time }: Performed): number {
  const ms = Array.from(place, (t, i) => time.tempo.between(line[i], t)).sort((a, b) => a - b);
  return ms[ms.length >> 1];
}

/** How grids, lag and swing are found where the drift is over a quarter of a gap. */
export interface DriftGridScore {
  readonly player: Player;
  readonly takes: number;
  readonly first: number;
  readonly two: number;
  readonly drifting: number;
  readonly lagErrors: readonly number[];
  readonly swingErrors: readonly number[];
  /** Intervals given, and those that hold the truth. */
  readonly given: number;
  readonly held: number;
  readonly wrong: readonly string[];
}

export function scoreDriftGrids(player: Player, runs: number, seed: number, only?: string): DriftGridScore {
  let [first, two, drifting, takes, given, held] = [0, 0, 0, 0, 0, 0];
  const [lagErrors, swingErrors, wrongs]: [number[], number[], string[]] = [[], [], []];
  for (let i = 0; i < runs; i++) {
    const { plan, performed, depth } = takeOf(player, seed + i, only);
    if (depth < 0.25) continue;
    takes++;
    const { fits, lag, swing } = analysePlaces(performed.place, performed.time);
    const fewest = rightLines(performed, plan);
    const right = fits.slice(0, 2).map((f) => isRight(f.grid, fewest, performed, plan));
    if (right[0]) first++;
    if (right[0] || right[1]) two++;
    if (!right[0])
      wrongs.push(
        `${seed + i} ${formatGrid(plan.grid)} ${plan.density} ${plan.chords} depth ${depth.toFixed(2)}: ${fits
          .slice(0, 3)
          .map((f) => `${f.text} ${f.bits.toFixed(2)}`)
          .join(', ')}`,
      );
    if (!lag) continue;
    if (lag.drifting) drifting++;
    const gap = gapMs(plan.grid, plan.bpm, plan.meter);
    const modulo = (x: number) => x - Math.round(x / gap) * gap;
    const truth = middleOf(performed);
    lagErrors.push(Math.abs(modulo(lag.ms - truth)));
    if (lag.interval) {
      given++;
      const off = modulo(plan.lagMs - lag.ms);
      if (off >= lag.interval.low - lag.ms - 0.5 && off <= lag.interval.high - lag.ms + 0.5) held++;
    }
    if (isSwung(plan.grid) && swing) swingErrors.push(Math.abs(swing.share - plan.grid.swing) * 100);
  }
  return { player, takes, first, two, drifting, lagErrors, swingErrors, given, held, wrong: wrongs };
}

/** Lags that are off by a line, and those of these that were called sure; without what is heard and with it. */
export interface AccentScore {
  readonly takes: number;
  readonly offWithout: number;
  readonly offWith: number;
  readonly sureWithout: number;
  readonly sureWith: number;
  /** Right ones called sure. */
  readonly rightWithout: number;
  readonly rightWith: number;
}

/** @param accent how much louder notes on the beat are, on the average */
export function scoreAccents(player: Player, runs: number, seed: number, accent: number): AccentScore {
  const [off, sure, right] = [
    [0, 0],
    [0, 0],
    [0, 0],
  ];
  for (let i = 0; i < runs; i++) {
    const { plan } = takeOf(player, seed + i);
    const performed = performPlan({ ...plan, accent });
    const gap = gapMs(plan.grid, plan.bpm, plan.meter);
    const truth = middleOf(performed);
    [undefined, salience(performed.heard)].forEach((accents, k) => {
      const { lag } = analysePlaces(performed.place, performed.time, undefined, accents);
      if (!lag) return;
      const wrong = Math.abs(lag.ms - truth) > gap / 2;
      if (wrong) off[k]++;
      if (lag.sure) (wrong ? sure : right)[k]++;
    });
  }
  return {
    takes: runs,
    offWithout: off[0],
    offWith: off[1],
    sureWithout: sure[0],
    sureWith: sure[1],
    rightWithout: right[0],
    rightWith: right[1],
  };
}
