/** A kind of worker of which one can be started before it is known what to ask: that takes as long as a small answer. */
export interface Ahead {
  /** Starts one, where none waits. */
  ahead(): void;
  /** The one that waits, or a new one. */
  take(): Worker;
}

export function startedAhead(start: () => Worker): Ahead {
  let waiting: Worker | null = null;
  return {
    ahead() {
      if (waiting) return;
      try {
        const worker = start();
        waiting = worker;
        // One that fails while it waits is nobody's: who asks starts another, and is told.
        worker.addEventListener('error', () => {
          if (waiting === worker) waiting = null;
        });
      } catch {
        // The same.
      }
    },
    take() {
      const worker = waiting ?? start();
      waiting = null;
      return worker;
    },
  };
}
