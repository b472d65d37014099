import type { Circle } from './circle';
import { densities } from './densities';
import { AGAINST_DRIFT, FIRST_SPREAD, LEAST_GAP, LEAST_TOTAL, SIGMAS, TAUS } from './model';

const { exp, log, sqrt } = Math;

/** A player whose time walks away from the click. In steps. */
export interface Walk {
  readonly sigma: number;
  readonly tau: number;
  /** Log likelihood less what a drift has to earn; nats. */
  readonly nats: number;
}

/**
 * Fits σ and τ by the likelihood of the chords on the drift axis, over a table of both.
 * @param blocks of chords that are looked at; the first begins the take
 * @param least where a few values of the table are all less likely than this, the rest is not looked at; nats
 */
export function fitWalk(blocks: readonly Circle[], least: number): Walk {
  const known = new Map<string, number>();
  const emissions = new Map<number, Float64Array[]>();
  const emissionOf = (s: number) => {
    let all = emissions.get(s);
    if (!all) emissions.set(s, (all = blocks.map(({ near, far }) => densities(near, far, SIGMAS[s]))));
    return all;
  };
  const likelihood = (s: number, t: number): number => {
    const key = `${s}.${t}`;
    let value = known.get(key);
    if (value === undefined) {
      const emission = emissionOf(s);
      value = blocks.reduce((sum, block, b) => sum + logLikelihood(block, emission[b], TAUS[t], b === 0), 0);
      value -= AGAINST_DRIFT;
      known.set(key, value);
    }
    return value;
  };
  // Coarse first: every second value of both, then the neighbours of the best.
  let best = { s: 0, t: 0, value: -Infinity };
  const look = (s: number, t: number) => {
    if (s < 0 || t < 0 || s >= SIGMAS.length || t >= TAUS.length) return;
    const value = likelihood(s, t);
    if (value > best.value) best = { s, t, value };
  };
  for (const s of [1, 3, 5]) for (const t of [0, 2]) look(s, t);
  if (best.value < least) return { sigma: SIGMAS[best.s], tau: TAUS[best.t], nats: best.value };
  for (let round = 0; round < 4; round++) {
    const { s, t } = best;
    for (let ds = -1; ds <= 1; ds++) for (let dt = -1; dt <= 1; dt++) look(s + ds, t + dt);
    if (best.s === s && best.t === t) break;
  }
  return { sigma: SIGMAS[best.s], tau: TAUS[best.t], nats: best.value };
}

/** Forward probability of some chords, as a natural logarithm. @param first the block begins the take */
function logLikelihood(axis: Circle, emission: Float64Array, tau: number, first: boolean): number {
  const { bins, count, width, place, drift } = axis;
  const most = bins >> 1;
  // The circle, and at both ends what lies beside it once more.
  const ring = new Float64Array(bins + 2 * most);
  const next = new Float64Array(bins);
  const kernel = new Float64Array(most + 1);
  let sum = 0;
  for (let k = 0; k < bins; k++) {
    next[k] = first ? exp(-(drift[k] ** 2) / (2 * FIRST_SPREAD * FIRST_SPREAD)) : 1;
    sum += next[k];
  }
  let nats = -log(sum);
  let total = 0;
  for (let k = 0; k < bins; k++) {
    next[k] *= emission[k];
    total += next[k];
  }
  for (let i = 1; i < count; i++) {
    if (!(total > LEAST_TOTAL && total < 1 / LEAST_TOTAL)) {
      if (!(total > 0)) return -Infinity;
      nats += log(total);
      for (let k = 0; k < bins; k++) next[k] /= total;
      total = 1;
    }
    const variance = tau * tau * Math.max(LEAST_GAP, place[i] - place[i - 1]);
    const row = i * bins;
    // After a long rest a drift may be anywhere on the circle: all bins are alike.
    if (variance >= (ANYWHERE * bins * width) ** 2) {
      const alike = total / bins;
      total = 0;
      for (let k = 0; k < bins; k++) {
        next[k] = alike * emission[row + k];
        total += next[k];
      }
      continue;
    }
    const reach = fillKernel(kernel, variance, width, most);
    ring.set(next, reach);
    for (let d = 0; d < reach; d++) {
      ring[d] = next[bins - reach + d];
      ring[reach + bins + d] = next[d];
    }
    total = 0;
    for (let k = 0; k < bins; k++) {
      const at = reach + k;
      let moved = kernel[0] * ring[at];
      for (let d = 1; d <= reach; d++) moved += kernel[d] * (ring[at - d] + ring[at + d]);
      moved *= emission[row + k];
      next[k] = moved;
      total += moved;
    }
  }
  return nats + log(total);
}

/** From this share of the circle on, as a standard deviation, a drift that went on may be anywhere on it. */
const ANYWHERE = 0.75;

/** A normal kernel over bins, from the middle outwards; gives how far it reaches. */
function fillKernel(kernel: Float64Array, variance: number, width: number, most: number): number {
  const reach = Math.min(most, Math.max(1, Math.ceil((3.5 * sqrt(variance)) / width)));
  let sum = 0;
  for (let d = 0; d <= reach; d++) {
    // Over half a bin on both sides: a drift finer than a bin still moves.
    kernel[d] = exp(-((d * width) ** 2) / (2 * (variance + (width * width) / 12)));
    sum += d === 0 ? kernel[d] : 2 * kernel[d];
  }
  for (let d = 0; d <= reach; d++) kernel[d] /= sum;
  return reach;
}
