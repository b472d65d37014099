/** Median of numbers in any order; NaN for none. For an even count the mean of the middle two. */
export function median(values: ArrayLike<number>): number {
  const sorted = Float64Array.from(values).sort();
  return sortedQuantile(sorted, 0.5);
}

/** Median absolute deviation from the median; NaN for none. */
export function medianAbsoluteDeviation(values: ArrayLike<number>): number {
  const middle = median(values);
  return median(Float64Array.from(values, (v) => Math.abs(v - middle)));
}

/** Quantile of ascending numbers, by straight lines between the order statistics (Hyndman & Fan type 7). */
export function sortedQuantile(sorted: ArrayLike<number>, p: number): number {
  if (sorted.length === 0) return NaN;
  const at = (sorted.length - 1) * p;
  const low = Math.floor(at);
  const high = Math.ceil(at);
  return sorted[low] + (at - low) * (sorted[high] - sorted[low]);
}
