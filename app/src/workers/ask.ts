import { releaseProxy, wrap, type Remote } from 'comlink';

/**
 * Asks a worker something. The promise fails where the worker cannot start or breaks, which would answer nothing;
 * and it holds on to the proxy, which answers nothing any more once it was collected as garbage.
 */
export async function ask<Api, Answer>(
  worker: Worker,
  question: (api: Remote<Api>) => Promise<Answer>,
): Promise<Answer> {
  const api = wrap<Api>(worker);
  let fail: (event: ErrorEvent) => void = () => undefined;
  const broken = new Promise<never>((_, reject) => {
    fail = (event) => reject(new Error(event.message || 'The worker could not be started.'));
  });
  worker.addEventListener('error', fail);
  try {
    return await Promise.race([question(api), broken]);
  } finally {
    worker.removeEventListener('error', fail);
    api[releaseProxy]();
  }
}
