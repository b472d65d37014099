import { Kept } from '../maths';
import type { Ms } from '../time';
import { FIRST_SPREAD, LAG_SD, type PlayerModel } from './model';
import type { Offsets } from './offsets';

const { exp, log, PI } = Math;

/**
 * What a Kalman filter over a player's drift and lag does at each chord. It hangs on the gaps between the chords and on
 * the model, not on where the chords are: ways to explain a take share it.
 */
export interface Gains {
  /** What is left of the drift since the chord before; null where all of it is. */
  readonly left: Float64Array | null;
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
const kept = new Kept<Float64Array, string, Gains>();

/** @param offsets of which only the gaps count */
export function gainsFor({ gap, stepMs }: Omit<Offsets, 'offset'>, model: PlayerModel): Gains {
  if (gap.length > KEPT) return gainsOf(gap, stepMs, model);
  const key = `${stepMs} ${model.sigma} ${Object.values(model.wander).join(' ')}`;
  return kept.of(gap, key, () => gainsOf(gap, stepMs, model));
}

function gainsOf(gap: Float64Array, stepMs: Ms, model: PlayerModel): Gains {
  const left = leftOf(gap, model);
  const columns = columnsFor(gap.length);
  const logs = new Covariances(stepMs, model).fill(columns, left, gap, 0, gap.length);
  return { left, ...columns, logs };
}

const returns = new Kept<Float64Array, number, Float64Array>();

/** Once for each pull: exponentials take their time. */
function leftOf(gap: Float64Array, { wander }: PlayerModel): Float64Array | null {
  if (wander.kind !== 'returning') return null;
  const { pull } = wander;
  return returns.of(gap, pull, () => gap.map((g) => exp(-pull * g)));
}

type Columns = Pick<Gains, 'before' | 'drift' | 'lag' | 'precision'>;

function columnsFor(count: number): Columns {
  const column = () => new Float64Array(count);
  return { before: new Float64Array(count * 3), drift: column(), lag: column(), precision: column() };
}

/** How sure drift and lag are, from chord to chord. */
class Covariances {
  private xx: number;
  private xm = 0;
  private mm: number;
  private readonly spread: number;
  private readonly apart: number;
  private readonly noise: number;

  constructor(stepMs: Ms, { sigma, wander }: PlayerModel) {
    this.spread = wander.kind === 'returning' ? wander.spread ** 2 : 0;
    this.apart = wander.kind === 'walk' ? wander.tau ** 2 : 0;
    this.noise = sigma ** 2;
    // Of a walk the lag is a part of where it begins.
    const lagVariance = (LAG_SD / stepMs) ** 2;
    [this.xx, this.mm] = wander.kind === 'walk' ? [FIRST_SPREAD ** 2 + lagVariance, 0] : [this.spread, lagVariance];
  }

  /** Goes on over the chords `from` to before `to`, and writes what it does at them; gives the logarithms' sum. */
  fill(into: Columns, left: Float64Array | null, gap: Float64Array, from: number, to: number): number {
    const { before, drift, lag, precision } = into;
    const { spread, apart, noise } = this;
    let { xx, xm, mm } = this;
    let logs = 0;
    for (let i = from, k = 0; i < to; i++, k++) {
      if (i > 0 && left) {
        const rho = left[i];
        xm *= rho;
        xx = rho * rho * xx + spread * (1 - rho * rho);
      } else if (i > 0) xx += apart * gap[i];
      const gx = xx + xm;
      const gm = mm + xm;
      const variance = gx + gm + noise;
      before[k * 3] = xx;
      before[k * 3 + 1] = xm;
      before[k * 3 + 2] = mm;
      drift[k] = gx / variance;
      lag[k] = gm / variance;
      precision[k] = 1 / variance;
      logs += log(2 * PI * variance);
      xx -= gx * drift[k];
      xm -= gx * lag[k];
      mm -= gm * lag[k];
    }
    [this.xx, this.xm, this.mm] = [xx, xm, mm];
    return logs;
  }
}

/** Of long takes so many chords at a time: their gains stay where they are quickly reached. */
const BLOCK = 512;
const block = columnsFor(BLOCK);

/** Log density of offsets under a model, with a step as the unit; nats. */
export function logDensity(offsets: Offsets, model: PlayerModel): number {
  const { offset, gap, stepMs } = offsets;
  const player = new Place(offset);
  if (gap.length <= KEPT) {
    const gains = gainsFor(offsets, model);
    return -0.5 * (gains.logs + player.follow(gains, gains.left, 0, offset.length));
  }
  const left = leftOf(gap, model);
  const covariances = new Covariances(stepMs, model);
  let sum = 0;
  for (let from = 0; from < offset.length; from += BLOCK) {
    const to = Math.min(offset.length, from + BLOCK);
    sum += covariances.fill(block, left, gap, from, to) + player.follow(block, left, from, to);
  }
  return -0.5 * sum;
}

/** Where a player's time is, from chord to chord. */
class Place {
  private drift = 0;
  private lag = 0;

  constructor(private readonly offset: Float64Array) {}

  /** Goes on over the chords `from` to before `to`; gives the sum of their errors squared, in variances. */
  follow({ drift, lag, precision }: Columns, left: Float64Array | null, from: number, to: number): number {
    const { offset } = this;
    let [x, m, squares] = [this.drift, this.lag, 0];
    for (let i = from, k = 0; i < to; i++, k++) {
      if (left && i > 0) x *= left[i];
      const error = offset[i] - x - m;
      x += drift[k] * error;
      m += lag[k] * error;
      squares += error * error * precision[k];
    }
    [this.drift, this.lag] = [x, m];
    return squares;
  }
}
