import type { Remote } from 'comlink';
import { WorkerLink } from './worker-link';

/**
 * Asks a worker of its own, which ends with its answer: its memory is freed, and nothing else waits for it.
 * @throws WorkerFault, or what the worker throws
 */
export async function askOnce<Api, Answer>(
  start: () => Worker,
  question: (api: Remote<Api>) => Promise<Answer>,
): Promise<Answer> {
  const link = new WorkerLink<Api>(start);
  try {
    return await link.ask(question);
  } finally {
    link.end();
  }
}
