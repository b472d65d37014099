import type { Pieces } from '@early-sparrow/core/maths';

/** Work goes on for so long at a time, in ms: in between the page paints, and hears its user. */
const TURN_MS = 16;

/** How much work is under way that somebody waits for: a step, or what is to be on the disk. */
let awaited = 0;

/**
 * Does long work in turns with everything else on the page.
 * @param stop ends it early
 * @returns its result; null where it was stopped
 */
export async function inTurns<T>(work: Pieces<T>, stop?: AbortSignal): Promise<T | null> {
  awaited++;
  try {
    return await turns(work, stop, () => false);
  } finally {
    awaited--;
  }
}

/** {@link inTurns} for work that nobody waits for: it lets all other work go before. */
export function inTurnsLast<T>(work: Pieces<T>, stop: AbortSignal): Promise<T | null> {
  return turns(work, stop, () => awaited > 0);
}

async function turns<T>(work: Pieces<T>, stop: AbortSignal | undefined, waits: () => boolean): Promise<T | null> {
  for (;;) {
    const until = performance.now() + TURN_MS;
    while (!waits() && performance.now() < until) {
      const next = work.next();
      if (next.done) return next.value;
    }
    await nextTurn();
    if (stop?.aborted) return null;
  }
}

/** What is used of the browser's scheduler; TypeScript has no types for it yet. */
interface Scheduler {
  postTask(task: () => void): Promise<void>;
}

/**
 * Resolves once everything else that was waiting has had its turn. A timer set by a timer comes 4 ms late, during which
 * nothing is done, and in a hidden page only once a second.
 */
function nextTurn(): Promise<void> {
  const { scheduler } = globalThis as { scheduler?: Scheduler };
  return scheduler ? scheduler.postTask(() => undefined) : new Promise((next) => setTimeout(next));
}
