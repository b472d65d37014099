import type { Lines } from '../grid';
import { fillRow, partOf, type Axis } from './axis';
import { densities } from './densities';
import { AGAINST_DRIFT, LEAST_GAP, LEAST_TOTAL, PULLS, SIGMAS, SPREADS } from './model';

const { exp, log, sqrt } = Math;

/** A player whose time comes back to a middle: that middle is the lag. In steps. */
export interface Returning {
  readonly sigma: number;
  /** 0 for steady playing. */
  readonly spread: number;
  readonly pull: number;
  readonly lag: number;
  /** Log likelihood with the prior of the lag, less what a drift has to earn; nats. */
  readonly nats: number;
}

/** Chords of the fit against every drift. */
export interface Sample {
  readonly axis: Axis;
  /** Row by row, a chord each. */
  readonly near: Float32Array;
  readonly far: Float32Array;
  /** To the chord before, in steps; 0 where a block of the sample begins. */
  readonly gap: Float64Array;
  /** Row of the first of these chords. */
  readonly from: number;
}

/** The middle half of a sample. */
function halfOf(sample: Sample): Sample {
  const count = sample.gap.length;
  if (count < 200) return sample;
  const from = count >> 2;
  const gap = sample.gap.slice(from, from + (count >> 1));
  gap[0] = 0;
  return { ...sample, gap, from };
}

/** @param blocks index ranges of chords, each from its first to before its last */
export function takeSample(
  blocks: readonly (readonly [number, number])[],
  axis: Axis,
  place: Float64Array,
  lines: Lines,
  unit: number,
  cycle: number,
): Sample {
  const count = blocks.reduce((n, [from, to]) => n + to - from, 0);
  const near = new Float32Array(count * axis.bins);
  const far = new Float32Array(count * axis.bins);
  const gap = new Float64Array(count);
  let at = 0;
  for (const [from, to] of blocks) {
    for (let i = from; i < to; i++, at++) {
      const span = [at * axis.bins, (at + 1) * axis.bins] as const;
      fillRow({ near: near.subarray(...span), far: far.subarray(...span) }, axis, place[i], lines, unit, cycle);
      gap[at] = i === from ? 0 : Math.max(LEAST_GAP, (place[i] - place[i - 1]) / unit);
    }
  }
  return { axis, near, far, gap, from: 0 };
}

/** Gaps are told apart to this share of a step, so that their kernels can be kept. */
const GAP_STEP = 1 / 8;

/** Fits σ, spread, pull and lag over their tables by the forward likelihood; coarse first, then around the best. */
export class ReturningFit {
  private readonly emissions = new Map<number, Float64Array>();

  constructor(
    private readonly sample: Sample,
    /** Standard deviation of the lag before anything is heard, in steps. */
    private readonly lagSpread: number,
  ) {}

  /** Steady playing: the lag and σ that explain the chords best. */
  steady(): Returning {
    const { axis, gap } = this.sample;
    let best: Returning = { sigma: SIGMAS[0], spread: 0, pull: 0, lag: 0, nats: -Infinity };
    const first = this.binOf(-axis.mostLag);
    const lags = this.binOf(axis.mostLag) - first + 1;
    const nats = new Float64Array(lags);
    const product = new Float64Array(lags);
    for (const sigma of SIGMAS) {
      const emission = this.emission(sigma);
      product.fill(1);
      for (let k = 0; k < lags; k++) nats[k] = this.prior(axis.low + (first + k) * axis.width);
      for (let i = 0; i < gap.length; i++) {
        const row = i * axis.bins + first;
        for (let k = 0; k < lags; k++) product[k] *= emission[row + k];
        // Products of a few at a time save most of the logarithms.
        if (i % TOGETHER < TOGETHER - 1 && i < gap.length - 1) continue;
        for (let k = 0; k < lags; k++) nats[k] += log(product[k]);
        product.fill(1);
      }
      for (let k = 0; k < lags; k++) {
        if (nats[k] > best.nats) best = { ...best, sigma, lag: axis.low + (first + k) * axis.width, nats: nats[k] };
      }
    }
    return best;
  }

  /** Playing that wanders and comes back. */
  returning(): Returning {
    const { axis } = this.sample;
    const { mostLag } = axis;
    // The whole table is looked at on a half of the chords; then the neighbours of its best on all of them.
    const coarse = new Search(this.likelihoodOf(halfOf(this.sample)), mostLag);
    for (const sigma of [SIGMAS[1], SIGMAS[3], SIGMAS[5]]) coarse.look(sigma, SPREADS[1], PULLS[2], 0);
    const lags = Math.ceil(mostLag / LAG_STEP);
    for (let k = -lags; k <= lags; k++) {
      coarse.look(coarse.best.sigma, SPREADS[1], PULLS[2], Math.max(-mostLag, Math.min(mostLag, k * LAG_STEP)));
    }
    const { sigma, lag } = coarse.best;
    for (const spread of SPREADS) for (const pull of PULLS) coarse.look(sigma, spread, pull, lag);
    const fine = new Search(this.likelihoodOf(this.sample), mostLag);
    fine.look(coarse.best.sigma, coarse.best.spread, coarse.best.pull, coarse.best.lag);
    for (let round = 0; round < 3; round++) {
      const start = fine.best;
      fine.lookAround();
      if (fine.best === start) break;
    }
    return fine.best;
  }

  private likelihoodOf(sample: Sample): (sigma: number, spread: number, pull: number, lag: number) => number {
    return (sigma, spread, pull, lag) => {
      // Of some of the chords the evidence counts for all of them.
      const share = this.sample.gap.length / sample.gap.length;
      return share * this.likelihood(sample, sigma, spread, pull, lag) + this.prior(lag) - AGAINST_DRIFT;
    };
  }

  private prior(lag: number): number {
    return this.lagSpread > 0 ? -0.5 * (lag / this.lagSpread) ** 2 : 0;
  }

  private binOf(lag: number): number {
    return Math.round((lag - this.sample.axis.low) / this.sample.axis.width);
  }

  /** Density of each chord at each drift, either line counted. */
  private emission(sigma: number): Float64Array {
    let known = this.emissions.get(sigma);
    if (!known) {
      this.emissions.set(sigma, (known = densities(this.sample.near, this.sample.far, sigma)));
    }
    return known;
  }

  private likelihood(sample: Sample, sigma: number, spread: number, pull: number, lag: number): number {
    const { gap } = sample;
    const { part: axis, first: skipped } = partOf(sample.axis, lag, spread);
    const emission = this.emission(sigma);
    const rowLength = sample.axis.bins;
    const first = sample.from * rowLength + skipped;
    const moves = new Map<number, Move>();
    let now = new Float64Array(axis.bins);
    let next = new Float64Array(axis.bins);
    let nats = 0;
    let total = 1;
    for (let i = 0; i < gap.length; i++) {
      const row = first + i * rowLength;
      if (gap[i] === 0) {
        nats += log(total);
        fillStart(now, axis, spread, lag);
        total = weigh(now, emission, row);
      } else {
        const rounded = Math.round(gap[i] / GAP_STEP);
        let move = moves.get(rounded);
        if (!move) moves.set(rounded, (move = moveOver(rounded * GAP_STEP, axis, spread, pull, lag)));
        total = carry(now, next, move, emission, row);
        [now, next] = [next, now];
      }
      if (total > LEAST_TOTAL && total < 1 / LEAST_TOTAL) continue;
      if (!(total > 0)) return -Infinity;
      nats += log(total);
      const back = 1 / total;
      for (let k = 0; k < now.length; k++) now[k] *= back;
      total = 1;
    }
    return nats + log(total);
  }
}

/** So many densities are multiplied before a logarithm is taken: none is below 1e-12 or above 1e2. */
const TOGETHER = 16;

/** Lags are looked at this far apart first, in steps. */
const LAG_STEP = 0.15;

/** Looks at values of the table, each once, and keeps the best. */
class Search {
  best: Returning = { sigma: SIGMAS[3], spread: SPREADS[1], pull: PULLS[2], lag: 0, nats: -Infinity };
  private readonly known = new Set<string>();

  constructor(
    private readonly likelihood: (sigma: number, spread: number, pull: number, lag: number) => number,
    private readonly mostLag: number,
  ) {}

  look(sigma: number, spread: number, pull: number, lag: number): void {
    const key = [sigma, spread, pull, lag.toFixed(3)].join();
    if (this.known.has(key) || Math.abs(lag) > this.mostLag + 1e-9) return;
    this.known.add(key);
    const nats = this.likelihood(sigma, spread, pull, lag);
    if (nats > this.best.nats) this.best = { sigma, spread, pull, lag, nats };
  }

  /** The neighbours of the best in each direction of the table. */
  lookAround(): void {
    for (const k of [-1, 1]) {
      this.look(neighbour(SIGMAS, this.best.sigma, k), this.best.spread, this.best.pull, this.best.lag);
      this.look(this.best.sigma, neighbour(SPREADS, this.best.spread, k), this.best.pull, this.best.lag);
      this.look(this.best.sigma, this.best.spread, neighbour(PULLS, this.best.pull, k), this.best.lag);
    }
    const { lag } = this.best;
    for (const d of [-2, -1, 1, 2])
      this.look(this.best.sigma, this.best.spread, this.best.pull, lag + (d * LAG_STEP) / 3);
  }
}

function neighbour(values: readonly number[], value: number, by: number): number {
  return values[Math.min(values.length - 1, Math.max(0, values.indexOf(value) + by))];
}

function fillStart(now: Float64Array, axis: Axis, spread: number, lag: number): void {
  let sum = 0;
  for (let k = 0; k < now.length; k++) {
    now[k] = exp(-0.5 * ((axis.low + k * axis.width - lag) / spread) ** 2);
    sum += now[k];
  }
  for (let k = 0; k < now.length; k++) now[k] /= sum;
}

/** How drifts move over a gap: towards the middle, then apart. */
interface Move {
  /** Where each bin goes: the bin below, and the share that goes to the one above it. */
  readonly to: Int32Array;
  readonly share: Float64Array;
  /** A normal kernel from its middle outwards. */
  readonly kernel: Float64Array;
}

function moveOver(gap: number, axis: Axis, spread: number, pull: number, lag: number): Move {
  const { bins, width, low } = axis;
  const rho = exp(-pull * gap);
  const variance = spread * spread * (1 - rho * rho);
  const to = new Int32Array(bins);
  const share = new Float64Array(bins);
  for (let k = 0; k < bins; k++) {
    const at = (lag + rho * (low + k * width - lag) - low) / width;
    to[k] = Math.min(bins - 2, Math.max(0, Math.floor(at)));
    share[k] = Math.min(1, Math.max(0, at - to[k]));
  }
  const reach = Math.min(bins - 1, Math.max(1, Math.ceil((3 * sqrt(variance)) / width)));
  const kernel = new Float64Array(reach + 1);
  let sum = 0;
  for (let d = 0; d <= reach; d++) {
    kernel[d] = exp(-((d * width) ** 2) / (2 * (variance + (width * width) / 12)));
    sum += d === 0 ? kernel[d] : 2 * kernel[d];
  }
  for (let d = 0; d <= reach; d++) kernel[d] /= sum;
  return { to, share, kernel };
}

/** Weighs the bins by a chord's densities, a row from `row` on; gives what is there in all. */
function weigh(now: Float64Array, emission: Float64Array, row: number): number {
  let total = 0;
  for (let k = 0; k < now.length; k++) {
    now[k] *= emission[row + k];
    total += now[k];
  }
  return total;
}

/** Scratch space: drifts drawn to the middle, with room for the kernel at both ends. */
let drawn = new Float64Array(0);

/** Moves drifts on to the next chord and weighs them as {@link weigh}. */
function carry(now: Float64Array, next: Float64Array, move: Move, emission: Float64Array, row: number): number {
  const { to, share, kernel } = move;
  const bins = now.length;
  const room = kernel.length;
  if (drawn.length < bins + 2 * room) drawn = new Float64Array(bins + 2 * room);
  drawn.fill(0);
  for (let k = 0; k < bins; k++) {
    const part = now[k] * share[k];
    const at = room + to[k];
    drawn[at + 1] += part;
    drawn[at] += now[k] - part;
  }
  let all = 0;
  const middle = kernel[0];
  for (let k = 0; k < bins; k++) {
    const at = room + k;
    let total = middle * drawn[at];
    for (let d = 1; d < room; d++) total += kernel[d] * (drawn[at - d] + drawn[at + d]);
    total *= emission[row + k];
    next[k] = total;
    all += total;
  }
  return all;
}
