import type { Ms } from '../time';
import { FIRST_SPREAD, LAG_SD, type PlayerModel } from './model';
import type { Offsets } from './offsets';

const { exp, log, PI } = Math;

/**
 * What a Kalman filter over a player's drift and lag does at each chord. It hangs on the gaps between the chords and on
 * the model, not on where the chords are: ways to explain a take share it.
 */
export interface Gains {
  /** What is left of the drift since the chord before. */
  readonly left: Float64Array;
  /** Before each chord is taken in, three a chord: the variance of the drift, its covariance with the lag, the lag's variance. */
  readonly before: Float64Array;
  /** Shares of a chord's error by which the drift and the lag are put right. */
  readonly drift: Float64Array;
  readonly lag: Float64Array;
  /** One over the variance of a chord's place. */
  readonly precision: Float64Array;
  /** The normal densities' own part, over all chords: Σ log 2πσ². */
  readonly logs: number;
}

/** Gains of takes of so many chords are kept. */
const KEPT = 2000;
const known = new WeakMap<Float64Array, Map<string, Gains>>();

/** @param offsets of which only the gaps count */
export function gainsFor({ gap, stepMs }: Omit<Offsets, 'offset'>, model: PlayerModel): Gains {
  if (gap.length > KEPT) return gainsOf(gap, stepMs, model);
  let all = known.get(gap);
  if (!all) known.set(gap, (all = new Map<string, Gains>()));
  const key = `${stepMs} ${model.sigma} ${Object.values(model.wander).join(' ')}`;
  let gains = all.get(key);
  if (!gains) all.set(key, (gains = gainsOf(gap, stepMs, model)));
  return gains;
}

function gainsOf(gap: Float64Array, stepMs: Ms, { sigma, wander }: PlayerModel): Gains {
  const count = gap.length;
  const isWalk = wander.kind === 'walk';
  const spread = wander.kind === 'returning' ? wander.spread ** 2 : 0;
  const pull = wander.kind === 'returning' ? wander.pull : 0;
  const apart = isWalk ? wander.tau ** 2 : 0;
  const left = new Float64Array(count);
  const before = new Float64Array(count * 3);
  const [drift, lag, precision] = [new Float64Array(count), new Float64Array(count), new Float64Array(count)];
  // Of a walk the lag is a part of where it begins.
  const lagVariance = (LAG_SD / stepMs) ** 2;
  let [xx, xm, mm] = isWalk ? [FIRST_SPREAD ** 2 + lagVariance, 0, 0] : [spread, 0, lagVariance];
  let logs = 0;
  for (let i = 0; i < count; i++) {
    const rho = i === 0 || pull === 0 ? 1 : exp(-pull * gap[i]);
    if (i > 0) {
      xm *= rho;
      xx = rho * rho * xx + spread * (1 - rho * rho) + apart * gap[i];
    }
    const gx = xx + xm;
    const gm = mm + xm;
    const variance = gx + gm + sigma ** 2;
    left[i] = rho;
    before[i * 3] = xx;
    before[i * 3 + 1] = xm;
    before[i * 3 + 2] = mm;
    drift[i] = gx / variance;
    lag[i] = gm / variance;
    precision[i] = 1 / variance;
    logs += log(2 * PI * variance);
    xx -= gx * drift[i];
    xm -= gx * lag[i];
    mm -= gm * lag[i];
  }
  return { left, before, drift, lag, precision, logs };
}

/** Log density of offsets under a model, with a step as the unit; nats. */
export function logDensity(offsets: Offsets, model: PlayerModel): number {
  const { offset } = offsets;
  const { left, drift, lag, precision, logs } = gainsFor(offsets, model);
  let [x, m, squares] = [0, 0, 0];
  for (let i = 0; i < offset.length; i++) {
    x *= left[i];
    const error = offset[i] - x - m;
    x += drift[i] * error;
    m += lag[i] * error;
    squares += error * error * precision[i];
  }
  return -0.5 * (logs + squares);
}
