/** Index of the first of ascending values that is not below one; their number where all are. */
export function firstAt(values: Float64Array, value: number): number {
  let low = 0;
  let high = values.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (values[middle] < value) low = middle + 1;
    else high = middle;
  }
  return low;
}
