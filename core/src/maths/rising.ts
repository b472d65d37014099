import { gammaln } from 'simple-statistics';

/** Products of so many factors are kept; longer ones are asked for once in a while. */
const KEPT = 20_000;
const kept = new Map<number, number[]>();

/**
 * ln of `x·(x+1)·…` with `count` factors, which is ln Γ(x + count) − ln Γ(x); remembered, since searches ask for a few `x`
 * millions of times.
 * @param x above 0
 */
export function logRising(x: number, count: number): number {
  if (count === 0) return 0;
  if (count > KEPT) return gammaln(x + count) - gammaln(x);
  let known = kept.get(x);
  if (!known) kept.set(x, (known = [0]));
  for (let i = known.length; i <= count; i++) known.push(known[i - 1] + Math.log(x + i - 1));
  return known[count];
}
