/**
 * A 32-bit hash of three integers: a random number for every (seed, key, property) that does
 * not depend on any other, so that notes keep theirs when others come or go.
 * Mixing as in MurmurHash3's finalizer (A. Appleby, public domain), applied after each word.
 */
export function hash3(seed: number, key: number, property: number): number {
  let h = mix(Math.imul(seed, 0x9e3779b1) ^ 0x85ebca6b);
  h = mix(h ^ Math.imul(key + 0x7f4a7c15, 0xc2b2ae35));
  return mix(h ^ Math.imul(property + 0x165667b1, 0x27d4eb2f)) >>> 0;
}

function mix(h: number): number {
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return h ^ (h >>> 16);
}
