import { firstAt } from './first-at';
import { hash3 } from './random';
import { sortedQuantile } from './median';

/** An estimate with the interval that holds the truth in 95 of 100 cases. */
export interface Interval {
  readonly low: number;
  readonly high: number;
}

const ROUNDS = 400;

/**
 * 95 % interval of a statistic by the moving-block bootstrap (Künsch 1989): neighbours are drawn together,
 * since a player's errors are not independent. The draws are always the same for the same data.
 * @param count number of observations in time order
 * @param statistic of the observations with these indices; NaN is left out
 */
export function blockBootstrap(count: number, statistic: (indices: Int32Array) => number): Interval {
  const block = Math.max(1, Math.round(Math.cbrt(count)));
  const indices = new Int32Array(count);
  const values: number[] = [];
  for (let round = 0; round < ROUNDS; round++) {
    let filled = 0;
    for (let b = 0; filled < count; b++) {
      const start = Math.floor((hash3(round, b, 101) / 2 ** 32) * (count - block + 1));
      for (let i = 0; i < block && filled < count; i++) indices[filled++] = start + i;
    }
    const value = statistic(indices);
    if (!Number.isNaN(value)) values.push(value);
  }
  const sorted = Float64Array.from(values).sort();
  return { low: sortedQuantile(sorted, 0.025), high: sortedQuantile(sorted, 0.975) };
}

/**
 * A function that gives the median of the observations with some indices, each counted as often as it is drawn. They are
 * sorted once for all samples, so that a sample takes a single pass over its indices.
 * @param values of the observations; those that are NaN are never part of it
 * @param fewest of fewer the function gives NaN; at least 1
 */
export function medianOfPicked(values: ArrayLike<number>, fewest = 1): (indices: ArrayLike<number>) => number {
  const sorted = Float64Array.from(values)
    .filter((v) => !Number.isNaN(v))
    .sort();
  const rank = Int32Array.from(values, (v) => (Number.isNaN(v) ? -1 : firstAt(sorted, v)));
  const times = new Int32Array(sorted.length);
  return (indices) => {
    times.fill(0);
    let count = 0;
    for (let i = 0; i < indices.length; i++) {
      const at = rank[indices[i]];
      if (at < 0) continue;
      times[at]++;
      count++;
    }
    if (count < fewest) return NaN;
    let at = 0;
    let below = times[0];
    while (below <= (count - 1) >> 1) below += times[++at];
    const low = sorted[at];
    while (below <= count >> 1) below += times[++at];
    return (low + sorted[at]) / 2;
  };
}
