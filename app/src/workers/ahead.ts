/** Workers of one kind. One can be started before there is a question: starting takes as long as a small answer. */
export interface Ahead {
  /** Starts one, unless one waits already. */
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
        // A worker that breaks while it waits is dropped. The next question starts a new one.
        worker.addEventListener('error', () => {
          if (waiting === worker) waiting = null;
        });
      } catch {
        // The next question starts one itself, and gets the error.
      }
    },
    take() {
      const worker = waiting ?? start();
      waiting = null;
      return worker;
    },
  };
}
