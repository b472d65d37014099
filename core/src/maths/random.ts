/**
 * A 32-bit hash of three integers: a random number for every (seed, key, property) that does
 * not depend on any other, so that notes keep theirs when others come or go.
 * Mixing as in MurmurHash3's finalizer (A. Appleby, public domain), applied after each word.
 */
export function hash3(seed: number, key: number, property: number): number {
  return hashKey(hashBase(seed, property), key);
}

/** The part of {@link hash3} that is the same for every key. */
export function hashBase(seed: number, property: number): number {
  const h = mix(Math.imul(seed, 0x9e3779b1) ^ 0x85ebca6b);
  return mix(h ^ Math.imul(property + 0x165667b1, 0x27d4eb2f));
}

/** The rest of {@link hash3}. */
export function hashKey(base: number, key: number): number {
  return mix(mix(base ^ Math.imul(key + 0x7f4a7c15, 0xc2b2ae35))) >>> 0;
}

function mix(h: number): number {
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return h ^ (h >>> 16);
}
