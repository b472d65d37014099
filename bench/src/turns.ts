/** Fastest runs of a baseline and of a candidate, in ms. */
export interface Fastest {
  readonly baseline: number;
  readonly candidate: number;
}

/** What was computed last, so that no run can be left out as useless. */
let kept: unknown;

/**
 * Runs a baseline and a candidate in turns and keeps the fastest of each: whatever else the machine does meanwhile
 * slows both, and their ratio stays.
 * @param atLeastMs for how long, at least
 */
export function inTurns(baseline: () => unknown, candidate: () => unknown, atLeastMs = 2500): Fastest {
  const fastest = { baseline: Infinity, candidate: Infinity };
  const time = (run: () => unknown): number => {
    const begin = performance.now();
    kept = run();
    return performance.now() - begin;
  };
  // The first rounds are for the compiler.
  for (let i = 0; i < 3; i++) {
    time(baseline);
    time(candidate);
  }
  const end = performance.now() + atLeastMs;
  for (let round = 0; round < 5 || performance.now() < end; round++) {
    fastest.baseline = Math.min(fastest.baseline, time(baseline));
    fastest.candidate = Math.min(fastest.candidate, time(candidate));
  }
  if (kept === undefined) throw new Error('Nothing was computed.');
  return fastest;
}
