import { gridLines, parseGrid, stepTicks } from '@early-sparrow/core/grid';
import { followLines } from '@early-sparrow/core/follow';
import { performPlan, stream, wrongLines, type Plan, type Performed } from './perform';

/** Wrong lines by nearest and by follow, at one jitter and drift, in shares of the chords. */
export interface FollowScore {
  readonly name: string;
  readonly nearest: number;
  readonly follow: number;
  /** Wrong differences between neighbouring lines: what the ear hears as rhythm. */
  readonly nearestSteps: number;
  readonly followSteps: number;
  /** Share of takes in which steady playing was found. */
  readonly steady: number;
}

/** @param jitter and @param drift in steps; @param flams share of chords that are struck twice */
export function scoreFollow(
  name: string,
  runs: number,
  jitter: number,
  drift: number,
  more: Partial<Plan> = {},
  flams = 0,
): FollowScore {
  const total = { chords: 0, nearest: 0, follow: 0, nearestSteps: 0, followSteps: 0, steady: 0 };
  for (let i = 0; i < runs; i++) {
    const random = stream(3000 + i, 9);
    const grid = parseGrid(random() < 0.6 ? '1/16' : '1/8');
    const bpm = 70 + random() * 80;
    const step = (60_000 / bpm) * (4 / grid.value);
    const plan: Plan = {
      seed: 3000 + i,
      grid,
      bpm,
      meter: [4, 4],
      chords: 300,
      density: (['plain', 'syncopated', 'flat', 'sparse'] as const)[i % 4],
      lagMs: 0,
      jitterMs: jitter * step,
      driftMs: drift * step,
      fine: 1,
      ...more,
    };
    const { place, line, time } = withFlams(performPlan(plan), flams, plan.seed);
    const lines = gridLines(grid, time);
    const unit = stepTicks(grid, time.meter.ppq);
    const nearest = place.map((t) => lines.nearest(t));
    const followed = followLines(place, lines, time, grid);
    total.chords += place.length;
    total.nearest += wrongLines(nearest, line);
    total.follow += wrongLines(followed.line, line);
    total.nearestSteps += wrongSteps(nearest, line, unit);
    total.followSteps += wrongSteps(followed.line, line, unit);
    if (followed.wander === 0) total.steady++;
  }
  return {
    name,
    nearest: total.nearest / total.chords,
    follow: total.follow / total.chords,
    nearestSteps: total.nearestSteps / total.chords,
    followSteps: total.followSteps / total.chords,
    steady: total.steady / runs,
  };
}

function withFlams(p: Performed, share: number, seed: number): Performed {
  if (share === 0) return p;
  const random = stream(seed, 11);
  const all = [...p.place].flatMap((at, i) => {
    const one = { at, line: p.line[i] };
    return random() < share ? [one, { ...one, at: at + 40 }] : [one];
  });
  all.sort((a, b) => a.at - b.at);
  const column = (of: (x: (typeof all)[number]) => number) => Float64Array.from(all, of);
  return { time: p.time, place: column((x) => x.at), line: column((x) => x.line) };
}

function wrongSteps(found: Float64Array, truth: Float64Array, unit: number): number {
  let n = 0;
  for (let i = 1; i < found.length; i++) {
    if (Math.abs(found[i] - found[i - 1] - truth[i] + truth[i - 1]) > unit / 10) n++;
  }
  return n;
}
