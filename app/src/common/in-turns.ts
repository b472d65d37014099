import type { Pieces } from '@early-sparrow/core/maths';

/** Work goes on for so long at a time, in ms: in between the page paints, and hears its user. */
const TURN_MS = 16;

/**
 * Does long work in turns with everything else on the page.
 * @param stop ends it early
 * @returns its result; null where it was stopped
 */
export async function inTurns<T>(work: Pieces<T>, stop?: AbortSignal): Promise<T | null> {
  for (;;) {
    const until = performance.now() + TURN_MS;
    while (performance.now() < until) {
      const next = work.next();
      if (next.done) return next.value;
    }
    await new Promise((next) => setTimeout(next));
    if (stop?.aborted) return null;
  }
}
