const kept = new Map<number, number[]>();

/**
 * ln of `x·(x+1)·…` with `count` factors, which is ln Γ(x + count) − ln Γ(x); remembered, since searches ask for a few `x`
 * millions of times.
 * @param x above 0
 */
export function logRising(x: number, count: number): number {
  if (count === 0) return 0;
  let known = kept.get(x);
  if (!known) kept.set(x, (known = [0]));
  for (let i = known.length; i <= count; i++) known.push(known[i - 1] + Math.log(x + i - 1));
  return known[count];
}
