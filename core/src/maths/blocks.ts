/** So many turns of a loop are one call. */
const BLOCK = 4096;

/**
 * Goes through the indices of a long list at once, in many short calls. One loop over a million numbers may run uncompiled
 * to its end: an engine compiles a function while others of its calls run, and code that was compiled for a loop under way
 * is given up as soon as the loop ends. Ten times as slow, once in three calls, as measured in the browser.
 * @param end the index behind the last
 * @param act is given the first index, and the one behind the last; it keeps in variables of its own what its loop changes
 * @param begin the first index
 */
export function inBlocks(end: number, act: (from: number, to: number) => void, begin = 0): void {
  for (let from = begin; from < end; from += BLOCK) act(from, Math.min(end, from + BLOCK));
}

/** Whether something holds for all indices of a long list, asked in short calls as of {@link inBlocks}; the first no ends it. */
export function holdsInBlocks(end: number, holds: (from: number, to: number) => boolean): boolean {
  for (let from = 0; from < end; from += BLOCK) if (!holds(from, Math.min(end, from + BLOCK))) return false;
  return true;
}
