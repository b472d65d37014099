/** Whether two lists hold the very same things, one by one. */
export function sameEach(a: readonly unknown[], b: readonly unknown[]): boolean {
  return a.length === b.length && a.every((one, i) => one === b[i]);
}

/** Whether two columns of one kind hold the same numbers, to the bit. Compared as words, whatever they hold: many times as fast. */
export function sameNumbers<T extends ArrayBufferView>(a: T, b: T): boolean {
  if (a === b) return true;
  if (a.byteLength !== b.byteLength) return false;
  // Words begin at every fourth byte.
  const words = a.byteOffset % 4 === 0 && b.byteOffset % 4 === 0 ? a.byteLength >> 2 : 0;
  if (words > 0) {
    const x = new Uint32Array(a.buffer, a.byteOffset, words);
    const y = new Uint32Array(b.buffer, b.byteOffset, words);
    for (let i = 0; i < words; i++) if (x[i] !== y[i]) return false;
  }
  const rest = bytesBehind(b, words);
  return bytesBehind(a, words).every((byte, i) => byte === rest[i]);
}

function bytesBehind({ buffer, byteOffset, byteLength }: ArrayBufferView, words: number): Uint8Array {
  return new Uint8Array(buffer, byteOffset + words * 4, byteLength - words * 4);
}
