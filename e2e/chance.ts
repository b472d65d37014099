/**
 * Numbers from 0 to 1 that are the same for the same seed (a linear congruential generator; Press et al., Numerical Recipes).
 * @param seed a whole number
 */
export function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
    return state / 2 ** 32;
  };
}
