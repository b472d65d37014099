import { median as middleOf, quantile as shareOf } from 'simple-statistics';

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
