import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { runJob, type Job, type Outcome } from './job';

/** Runs jobs over worker threads; outcomes come back in the order of the jobs. */
export async function runAll(jobs: readonly Job[], progress: (done: number) => void): Promise<Outcome[]> {
  if (jobs.length === 1) return [runJob(jobs[0])];
  const outcomes = new Array<Outcome>(jobs.length);
  let next = 0;
  let done = 0;
  const count = Math.min(availableParallelism(), jobs.length);
  await Promise.all(
    Array.from({ length: count }, async () => {
      const worker = new Worker(new URL('./worker.mjs', import.meta.url));
      try {
        while (next < jobs.length) {
          const index = next++;
          outcomes[index] = await ask(worker, jobs[index]);
          progress(++done);
        }
      } finally {
        await worker.terminate();
      }
    }),
  );
  return outcomes;
}

function ask(worker: Worker, job: Job): Promise<Outcome> {
  return new Promise((resolve, reject) => {
    worker.once('message', (outcome: Outcome) => {
      worker.off('error', reject);
      resolve(outcome);
    });
    worker.once('error', reject);
    worker.postMessage(job);
  });
}
