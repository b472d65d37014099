import { parseGrid, isSwung } from '@early-sparrow/core/grid';
import { analysePlaces } from '@early-sparrow/core/insight';
import { median } from '@early-sparrow/core/maths';
import { gapMs, performPlan, stream, type Plan } from './perform';

/** How well lag and swing are found. */
export interface LagScore {
  readonly runs: number;
  /** Median error in ms, modulo the smallest gap. */
  readonly lagError: number;
  /** Share of intervals that hold the truth, of those that were given. */
  readonly lagHeld: number;
  /** Share of steady takes that were called drifting, and of drifting takes that were not. */
  readonly falseDrift: number;
  readonly missedDrift: number;
  /** Median error in points. */
  readonly swingError: number;
  readonly swingHeld: number;
  readonly swingMissed: number;
}

const STRAIGHT = ['1/8', '1/16', '1/8T', '1/16+1/8T'];
const SWUNG = ['1/8 ~58%', '1/8 ~66%', '1/16 ~57%', '1/16 ~62%', '1/16 ~70%'];

function plan(seed: number, swung: boolean, driftShare: number): Plan {
  const random = stream(seed, 9);
  const list = swung ? SWUNG : STRAIGHT;
  const grid = parseGrid(list[Math.floor(random() * list.length)]);
  const bpm = 50 + random() * (swung ? 110 : 130);
  const gap = gapMs(grid, bpm, [4, 4]);
  const jitterMs = Math.min(swung ? 10 : 20, 0.2 * gap, 2 + random() * 18);
  const step = (60_000 / bpm) * (4 / grid.value);
  return {
    seed,
    grid,
    bpm,
    meter: [4, 4],
    chords: 200,
    density: random() < 0.5 ? 'plain' : 'flat',
    lagMs: -60 + random() * 120,
    jitterMs,
    driftMs: driftShare * step,
    fine: 1,
  };
}

export function scoreLags(runs: number): LagScore {
  const lagErrors: number[] = [];
  const swingErrors: number[] = [];
  let [held, given, falseDrift, swingHeld, swingMissed, missedDrift] = [0, 0, 0, 0, 0, 0];
  const modulo = (x: number, gap: number) => x - Math.round(x / gap) * gap;
  for (let i = 0; i < runs; i++) {
    const swung = i % 2 === 1;
    const p = plan(7000 + i, swung, 0);
    const { place, time } = performPlan(p);
    const { lag, swing } = analysePlaces(place, time);
    if (lag) {
      const error = modulo(lag.ms - p.lagMs, gapMs(p.grid, p.bpm, p.meter));
      lagErrors.push(Math.abs(error));
      if (lag.drifting) falseDrift++;
      if (lag.interval && Math.abs(error) < 20) {
        given++;
        if (lag.interval.low - lag.ms + error <= 0.5 && lag.interval.high - lag.ms + error >= -0.5) held++;
      }
    }
    if (isSwung(p.grid)) {
      if (!swing) swingMissed++;
      else {
        swingErrors.push(Math.abs(swing.share - p.grid.swing) * 100);
        if (swing.interval.low <= p.grid.swing + 0.0005 && swing.interval.high >= p.grid.swing - 0.0005) swingHeld++;
      }
    }
    const drifting = performPlan(plan(90_000 + i, swung, 0.05));
    if (!analysePlaces(drifting.place, drifting.time).lag?.drifting) missedDrift++;
  }
  return {
    runs,
    lagError: median(lagErrors),
    lagHeld: held / Math.max(1, given),
    falseDrift: falseDrift / runs,
    missedDrift: missedDrift / runs,
    swingError: median(swingErrors),
    swingHeld: swingHeld / Math.max(1, swingErrors.length),
    swingMissed: swingMissed / (runs / 2),
  };
}
