import { MessageChannel as NodeMessageChannel, type MessagePort as NodeMessagePort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { ask } from '../src/workers/ask';

interface Api {
  double(n: number): number;
}

/** The two ends of a channel in place of a worker and its page. */
function pair(): { worker: Worker; port: NodeMessagePort; fail: (message: string) => void } {
  const { port1, port2 } = new NodeMessageChannel();
  const api: Api = { double: (n) => 2 * n };
  expose(api, nodeEndpoint(port2 as never));
  const listeners = new Map<unknown, (event: { message: string }) => void>();
  const end = nodeEndpoint(port1 as never);
  const worker = {
    postMessage: end.postMessage.bind(end),
    addEventListener: (type: string, listen: never) =>
      type === 'error' ? listeners.set(listen, listen) : end.addEventListener(type, listen),
    removeEventListener: (type: string, listen: never) =>
      type === 'error' ? listeners.delete(listen) : end.removeEventListener(type, listen),
    start: () => end.start?.(),
  } as unknown as Worker;
  return { worker, port: port1, fail: (message) => listeners.forEach((l) => l({ message })) };
}

describe('asking a worker', () => {
  it('is answered again and again by the same one', async () => {
    const { worker, port } = pair();
    for (const n of [1, 2, 3]) expect(await ask<Api, number>(worker, (api) => api.double(n))).toBe(2 * n);
    port.close();
  });

  it('fails where the worker breaks, which would answer nothing', async () => {
    const { worker, port, fail } = pair();
    const answer = ask<Api, number>(worker, () => new Promise(() => undefined));
    fail('out of memory');
    await expect(answer).rejects.toThrow('out of memory');
    port.close();
  });
});
