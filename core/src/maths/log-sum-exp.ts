/** ln of a sum of numbers that are given by their logarithms, without leaving the range of a number. */
export function logSumExp(logs: readonly number[]): number {
  const top = Math.max(...logs);
  return top + Math.log(logs.reduce((sum, log) => sum + Math.exp(log - top), 0));
}
