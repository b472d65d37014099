import { gammaln } from 'simple-statistics';

/** Probability of `right` or more of `tries` by even guessing: the upper tail of the binomial distribution with p = ½. */
export function guessing(right: number, tries: number): number {
  let sum = 0;
  for (let k = right; k <= tries; k++) {
    sum += Math.exp(gammaln(tries + 1) - gammaln(k + 1) - gammaln(tries - k + 1) - tries * Math.LN2);
  }
  return Math.min(1, sum);
}
