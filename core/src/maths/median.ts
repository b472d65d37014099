import { quantile as shareOf, quickselect } from 'simple-statistics';

/** Median of numbers in any order; NaN for none. For an even count the mean of the middle two. */
export function median(values: ArrayLike<number>): number {
  const last = values.length - 1;
  if (last < 0) return NaN;
  // Always of one kind: selecting in typed arrays and plain lists by turns takes twice as long.
  const copy = copyOf(values);
  const low = last >> 1;
  quickselect(copy, low, 0, last);
  if (last % 2 === 0) return copy[low];
  // All behind it are larger, or as large.
  let next = Infinity;
  for (let i = low + 1; i <= last; i++) if (copy[i] < next) next = copy[i];
  return (copy[low] + next) / 2;
}

/** Copies of more numbers than this are made in the same memory each time: a million are eight megabytes to make and to collect. */
const LONG = 50_000;
let scratch = new Float64Array(0);

/** A copy to select in until the next one is made; as the package's types know it: it looks at typed arrays as at any others. */
function copyOf(values: ArrayLike<number>): number[] {
  const copy =
    values.length > LONG
      ? copyInScratch(values)
      : values instanceof Float64Array
        ? values.slice()
        : Float64Array.from(values);
  return copy as unknown as number[];
}

function copyInScratch(values: ArrayLike<number>): Float64Array {
  if (scratch.length < values.length) scratch = new Float64Array(values.length);
  scratch.set(values);
  return scratch.subarray(0, values.length);
}

/** {@link median} of a few numbers, which are put in order in place. */
export function medianOfFew(few: number[]): number {
  for (let i = 1; i < few.length; i++) {
    const value = few[i];
    let k = i;
    for (; k > 0 && few[k - 1] > value; k--) few[k] = few[k - 1];
    few[k] = value;
  }
  const last = few.length - 1;
  return last < 0 ? NaN : (few[last >> 1] + few[(last + 1) >> 1]) / 2;
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
  const copy = copyOf(values);
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
