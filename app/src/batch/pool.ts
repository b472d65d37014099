import type { Remote } from 'comlink';
import type { BatchApi } from '../workers/batch-api';
import { batchWorker } from '../workers/batch-worker';
import { Cancelled, WorkerLink } from '../workers/worker-link';

/** More workers than this take more memory than they save time. */
const MOST = 16;

/** Some workers that take jobs from one queue: each has one at a time, and one that breaks costs only its own. */
export class Pool {
  private readonly links: WorkerLink<BatchApi>[];

  /** @param size how many work at once: by default as many as the machine has cores */
  constructor(size = navigator.hardwareConcurrency) {
    this.links = Array.from({ length: Math.max(1, Math.min(MOST, size || 2)) }, () => new WorkerLink(batchWorker));
  }

  /**
   * Does jobs in their order; ends when all are done, or when it is cancelled.
   * @param ask what a worker is asked for a job
   * @param done gets each answer; null where the worker broke
   */
  async run<Job, Answer>(
    jobs: readonly Job[],
    ask: (api: Remote<BatchApi>, job: Job) => Promise<Answer>,
    done: (job: Job, answer: Answer | null) => void,
    signal: AbortSignal,
  ): Promise<void> {
    let next = 0;
    await Promise.all(
      this.links.map(async (link) => {
        while (next < jobs.length && !signal.aborted) {
          const job = jobs[next++];
          try {
            done(job, await link.ask((api) => ask(api, job), { signal }));
          } catch (error) {
            if (error instanceof Cancelled) return;
            done(job, null);
          }
        }
      }),
    );
  }

  end(): void {
    for (const link of this.links) link.end();
  }
}
