import { holdsInBlocks } from './blocks';

/** Columns that are the same for all: long parts ask for them in every frame of a drag. Nobody writes into them. */
let identity = new Int32Array(0);
let zeros = new Uint8Array(0);
let noughts = zeros;
let ones = new Uint8Array(0);
let unknown = new Float64Array(0);

/** 0, 1, 2 and so on. */
export function counting(count: number): Int32Array {
  if (identity.length < count) {
    identity = new Int32Array(2 * count);
    for (let i = 0; i < identity.length; i++) identity[i] = i;
  }
  return identity.subarray(0, count);
}

/** Whether numbers are 0, 1, 2 and so on; those of {@link counting} are known without a look. */
export function isCounting(numbers: Int32Array): boolean {
  if (numbers.buffer === identity.buffer && numbers.byteOffset === 0) return true;
  return holdsInBlocks(numbers.length, (from, to) => {
    for (let i = from; i < to; i++) if (numbers[i] !== i) return false;
    return true;
  });
}

/** The same column for as long as the count stays. */
export function allZero(count: number): Uint8Array {
  if (zeros.length < count) zeros = new Uint8Array(2 * count);
  if (noughts.length !== count) noughts = zeros.subarray(0, count);
  return noughts;
}

export function allOne(count: number): Uint8Array {
  if (ones.length < count) ones = new Uint8Array(2 * count).fill(1);
  return ones.subarray(0, count);
}

export function allNaN(count: number): Float64Array {
  if (unknown.length < count) unknown = new Float64Array(2 * count).fill(NaN);
  return unknown.subarray(0, count);
}
