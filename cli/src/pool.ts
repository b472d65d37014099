import { availableParallelism } from 'node:os';
import { Worker, type ResourceLimits } from 'node:worker_threads';
import type { Job, Outcome } from './job';

/** How a batch is going, and how to end it early. */
export interface Batch {
  readonly progress: (done: number) => void;
  /** Once it is aborted no further file is begun; those under way are finished. */
  readonly stop: AbortSignal;
}

/**
 * Runs jobs over worker threads; outcomes come back in the order of the jobs. A job that breaks its worker, such as by
 * running out of memory, fails alone. Jobs that were not begun have no outcome.
 * @param thread the bundle that a worker runs
 */
export async function runAll(
  jobs: readonly Job[],
  { progress, stop }: Batch,
  thread: URL,
  resourceLimits?: ResourceLimits,
): Promise<(Outcome | undefined)[]> {
  const start = () => new Worker(thread, resourceLimits ? { resourceLimits } : {});
  const outcomes = new Array<Outcome | undefined>(jobs.length).fill(undefined);
  let next = 0;
  let done = 0;
  const count = Math.min(availableParallelism(), jobs.length);
  await Promise.all(
    Array.from({ length: count }, async () => {
      let worker = start();
      while (next < jobs.length && !stop.aborted) {
        const index = next++;
        try {
          outcomes[index] = await ask(worker, jobs[index]);
        } catch (error) {
          outcomes[index] = { ok: false, input: jobs[index].input, reason: brokenBy(error) };
          worker = start();
        }
        progress(++done);
      }
      await worker.terminate();
    }),
  );
  return outcomes;
}

function ask(worker: Worker, job: Job): Promise<Outcome> {
  return new Promise((resolve, reject) => {
    const answered = (outcome: Outcome) => {
      worker.off('error', broken);
      resolve(outcome);
    };
    const broken = (error: Error) => {
      worker.off('message', answered);
      reject(error);
    };
    worker.once('message', answered);
    worker.once('error', broken);
    worker.postMessage(job);
  });
}

function brokenBy(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  return code === 'ERR_WORKER_OUT_OF_MEMORY'
    ? 'there is not enough memory for it; correct it alone, or split it.'
    : `the program failed (${message}).`;
}
