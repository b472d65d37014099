import { isCounting } from './constant';

/**
 * Indices of numbers in ascending order, of equal ones the first first. Made for many that are nearly in order: those that
 * are not are taken out, sorted and merged in again.
 */
export function orderOf(numbers: ArrayLike<number>): Int32Array {
  const order = new Int32Array(numbers.length);
  const astray: number[] = [];
  let kept = 0;
  for (let i = 0; i < numbers.length; i++) {
    const last = kept > 0 ? numbers[order[kept - 1]] : -Infinity;
    const before = kept > 1 ? numbers[order[kept - 2]] : -Infinity;
    if (numbers[i] >= last) order[kept++] = i;
    // Rather the one before is astray, too far up, than this one and all behind it.
    else if (numbers[i] >= before) {
      astray.push(order[kept - 1]);
      order[kept - 1] = i;
    } else astray.push(i);
  }
  astray.sort((a, b) => numbers[a] - numbers[b] || a - b);
  // Merged from behind, so that nothing is written over before it is read.
  let at = numbers.length - 1;
  for (let next = astray.length - 1; next >= 0; at--) {
    const stray = astray[next];
    const last = kept > 0 ? order[kept - 1] : -1;
    const behind = last < 0 || numbers[stray] > numbers[last] || (numbers[stray] === numbers[last] && stray > last);
    order[at] = behind ? stray : last;
    if (behind) next--;
    else kept--;
  }
  return order;
}

/** Whether no number is less than the one before it. */
export function isAscending(numbers: Float64Array): boolean {
  for (let i = 1; i < numbers.length; i++) if (numbers[i] < numbers[i - 1]) return false;
  return true;
}

/** Some of many numbers, by their indices. */
export function picked(numbers: Float64Array, which: Int32Array): Float64Array {
  if (which.length === numbers.length && isCounting(which)) return numbers.slice();
  // A loop: `from` with a function takes ten times as long.
  const some = new Float64Array(which.length);
  for (let k = 0; k < some.length; k++) some[k] = numbers[which[k]];
  return some;
}
