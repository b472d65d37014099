import { wrap, type Remote } from 'comlink';

/** One proxy a worker, for as long as the worker is there. */
const proxies = new WeakMap<Worker, Remote<unknown>>();

/**
 * Asks a worker something, as often as wanted. The promise fails where the worker cannot start or breaks, which would
 * answer nothing. A worker has one proxy that is held on to: when a proxy is released or collected as garbage, its
 * worker listens to nobody any more.
 */
export async function ask<Api, Answer>(
  worker: Worker,
  question: (api: Remote<Api>) => Promise<Answer>,
): Promise<Answer> {
  let api = proxies.get(worker) as Remote<Api> | undefined;
  if (!api) {
    api = wrap<Api>(worker);
    proxies.set(worker, api as Remote<unknown>);
  }
  let fail: (event: ErrorEvent) => void = () => undefined;
  const broken = new Promise<never>((_, reject) => {
    fail = (event) => reject(new Error(event.message || 'The worker could not be started.'));
  });
  worker.addEventListener('error', fail);
  try {
    return await Promise.race([question(api), broken]);
  } finally {
    worker.removeEventListener('error', fail);
  }
}
