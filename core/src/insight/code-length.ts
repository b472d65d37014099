import { gammaln } from 'simple-statistics';
import { logRising } from '../maths';
import type { BarHistogram } from './histogram';
import type { BarLines } from './candidates';

/** Two chords' worth of a typical 4 ms, so that few chords do not look perfect. */
const PRIOR_CHORDS = 2;
const PRIOR_MS = 4;
const LEAST_MS = 0.5;
/** Lags are weighed by a normal distribution of this sd, in ms. */
const LAG_SD = 25;
const LOG2E = Math.LOG2E;

/** How often each line is used; scratch space, one array a kind of bar, since the search asks thousands of times. */
const scratch: { counts: Float64Array; lines: number }[] = [];

/**
 * Length of the shortest description of the playing by a grid's lines, in bits: which line of the bar each chord
 * is on (evenly, or by an adaptive code that expects strong places to be played more, whichever is shorter), and how far
 * from it (a Laplace distribution).
 * @param lines one a histogram: the lines of its bar
 */
export function codeLength(bars: readonly BarHistogram[], lines: readonly BarLines[], lag: number): number {
  let n = 0;
  let sum = 0;
  bars.forEach((bar, i) => {
    const used = (scratch[i] ??= { counts: new Float64Array(0), lines: 0 });
    used.lines = lines[i].ms.length;
    if (used.counts.length < used.lines) used.counts = new Float64Array(used.lines);
    used.counts.fill(0);
    sum += assignBins(bar, lines[i].ms, lag, used.counts);
    n += bar.chords;
  });
  const common = 1 + ((lag * lag) / (2 * LAG_SD * LAG_SD)) * LOG2E;
  return n * spread(sum, n) + lineBits(bars, lines) + common;
}

/** Bits a chord for its distance from the line. */
function spread(sum: number, n: number): number {
  return Math.log2(2 * Math.E * Math.max(LEAST_MS, (sum + PRIOR_CHORDS * PRIOR_MS) / (n + PRIOR_CHORDS)));
}

/** Bits for which line each chord is on, less those for anywhere in the bar. */
function lineBits(bars: readonly BarHistogram[], lines: readonly BarLines[]): number {
  return bars.reduce((bits, { chords: n, barMs }, i) => {
    const { counts, lines: k } = scratch[i];
    return bits + Math.min(n * Math.log2(k), adaptiveLength(counts, lines[i].strength, n)) - n * Math.log2(barMs);
  }, 0);
}

/** Finds each bin's nearest line and gives the sum of the chords' distances in ms. */
function assignBins(bar: BarHistogram, lines: Float64Array, lag: number, counts: Float64Array): number {
  const { at, weight, barMs } = bar;
  const count = lines.length;
  // Lines go on from bar to bar; begin early enough for the smallest place less the largest lag.
  let k = 0;
  let cycle = -1;
  let line = lines[0] - barMs;
  let after = count > 1 ? lines[1] - barMs : lines[0];
  let sum = 0;
  for (let i = 0; i < at.length; i++) {
    const t = at[i] - lag;
    while (after - t < t - line) {
      k++;
      if (k === count) {
        k = 0;
        cycle++;
      }
      line = after;
      after = k + 1 < count ? lines[k + 1] + cycle * barMs : lines[0] + (cycle + 1) * barMs;
    }
    counts[k] += weight[i];
    sum += weight[i] * Math.abs(t - line);
  }
  return sum;
}

/**
 * Adaptive code length of how often each line is used, in bits: each next one is expected by how often it came so far
 * and its own weight before (a Dirichlet prior; with ½ everywhere it is the code of Krichevsky & Trofimov 1981).
 * @param counts of the lines; what stands behind them does not count
 * @param weights of the prior, one a line
 */
export function adaptiveLength(counts: Float64Array, weights: Float64Array, n: number): number {
  let all = 0;
  let nats = 0;
  for (let line = 0; line < weights.length; line++) {
    all += weights[line];
    nats -= logRising(weights[line], counts[line]);
  }
  return (nats + gammaln(n + all) - gammaln(all)) * LOG2E;
}
