import { MessageChannel as NodeMessageChannel, type MessagePort as NodeMessagePort } from 'node:worker_threads';
import { expose } from 'comlink';
import nodeEndpoint from 'comlink/dist/umd/node-adapter';
import { startedAhead } from '../src/workers/ahead';
import { Cancelled, WorkerFault, WorkerLink } from '../src/workers/worker-link';

interface Api {
  double(n: number): number;
  soon(n: number): number;
  later(n: number): number;
  never(): number;
  refuse(): number;
}

/** The ends of channels in place of workers and their page. */
class Workers {
  started = 0;
  ended = 0;
  private readonly ports: NodeMessagePort[] = [];
  private listeners = new Set<(event: { message: string }) => void>();

  readonly start = (): Worker => {
    this.started++;
    const { port1, port2 } = new NodeMessageChannel();
    this.ports.push(port1);
    const api = {
      double: (n: number) => 2 * n,
      soon: async (n: number) => {
        await new Promise((done) => setTimeout(done, 30));
        return 2 * n;
      },
      later: async (n: number) => {
        await new Promise((done) => setTimeout(done, 1100));
        return 2 * n;
      },
      never: () => new Promise(() => undefined),
      refuse: () => {
        throw new Error('a bad file');
      },
    };
    expose(api, nodeEndpoint(port2 as never));
    this.listeners = new Set();
    const { listeners } = this;
    const end = nodeEndpoint(port1 as never);
    return {
      postMessage: end.postMessage.bind(end),
      addEventListener: (type: string, listen: never) =>
        type === 'error' ? listeners.add(listen) : end.addEventListener(type, listen),
      removeEventListener: (type: string, listen: never) =>
        type === 'error' ? listeners.delete(listen) : end.removeEventListener(type, listen),
      start: () => end.start?.(),
      terminate: () => {
        this.ended++;
        port1.close();
      },
    } as unknown as Worker;
  };

  fail(message: string): void {
    for (const listen of this.listeners) listen({ message });
  }

  close(): void {
    for (const port of this.ports) port.close();
  }
}

describe('a link to a worker', () => {
  let workers: Workers;
  let link: WorkerLink<Api>;
  beforeEach(() => {
    workers = new Workers();
    link = new WorkerLink<Api>(workers.start);
  });
  afterEach(() => workers.close());
  const soon = () => new Promise((done) => setTimeout(done, 20));

  it('is answered again and again by the same one, one question after the other', async () => {
    const answers = await Promise.all([1, 2, 3].map((n) => link.ask((api) => api.double(n))));
    expect(answers).toEqual([2, 4, 6]);
    expect(workers).toMatchObject({ started: 1, ended: 0 });
  });

  it('asks at once where nothing is being answered, then waits for its turn', async () => {
    const asked: number[] = [];
    const ask = (n: number) =>
      link.ask((api) => {
        asked.push(n);
        return api.double(n);
      });
    const first = ask(1);
    expect(asked).toEqual([1]);
    const second = ask(2);
    await first;
    expect(asked).toEqual([1]);
    expect(await second).toBe(4);
    await soon();
    const third = ask(3);
    expect(asked).toEqual([1, 2, 3]);
    expect(await third).toBe(6);
  });

  it('tells a worker that breaks, which would answer nothing, and starts another for the next question', async () => {
    const answer = link.ask((api) => api.never());
    answer.catch(() => undefined);
    await soon();
    workers.fail('out of memory');
    await expect(answer).rejects.toThrow(WorkerFault);
    await expect(answer).rejects.toThrow('out of memory');
    expect(await link.ask((api) => api.double(4))).toBe(8);
    expect(workers).toMatchObject({ started: 2, ended: 1 });
  });

  it('hands on what the worker throws about the question, and keeps the worker', async () => {
    const answer = link.ask((api) => api.refuse());
    await expect(answer).rejects.toThrow('a bad file');
    await expect(answer).rejects.not.toBeInstanceOf(WorkerFault);
    expect(await link.ask((api) => api.double(4))).toBe(8);
    expect(workers.started).toBe(1);
  });

  it('takes a question back, and ends the worker that still computes it', async () => {
    const stop = new AbortController();
    const answer = link.ask((api) => api.never(), { signal: stop.signal });
    answer.catch(() => undefined);
    await soon();
    stop.abort();
    await expect(answer).rejects.toThrow(Cancelled);
    await expect(link.ask((api) => api.double(1), { signal: stop.signal })).rejects.toThrow(Cancelled);
    expect(await link.ask((api) => api.double(4))).toBe(8);
    expect(workers).toMatchObject({ started: 2, ended: 1 });
  });

  it('keeps a worker that answers soon after a question was taken back; the next question waits for that', async () => {
    const stop = new AbortController();
    const late: number[] = [];
    const answer = link.ask(async (api) => late.push(await api.soon(3)), { signal: stop.signal });
    answer.catch(() => undefined);
    stop.abort();
    await expect(answer).rejects.toThrow(Cancelled);
    expect(late).toEqual([]);
    expect(await link.ask((api) => api.double(4))).toBe(8);
    expect(late).toEqual([6]);
    expect(workers).toMatchObject({ started: 1, ended: 0 });
    // Nor is it ended later, while it waits or computes something else.
    const next = link.ask((api) => api.later(5));
    expect(await next).toBe(10);
    expect(workers).toMatchObject({ started: 1, ended: 0 });
  });

  it('ends a worker at once that has long to go, by what it told', async () => {
    const stop = new AbortController();
    const answer = link.ask(
      (api, tell) => {
        setTimeout(() => tell(0.01), 20);
        return api.never();
      },
      { signal: stop.signal, told: () => stop.abort() },
    );
    await expect(answer).rejects.toThrow(Cancelled);
    await soon();
    expect(workers).toMatchObject({ started: 1, ended: 1 });
    expect(await link.ask((api) => api.double(4))).toBe(8);
  });

  it('starts one other worker, however many questions are taken back in turn', async () => {
    const stops = Array.from({ length: 30 }, () => new AbortController());
    const answers = stops.map((stop, i) => {
      stops[i - 1]?.abort();
      return link.ask((api) => api.never(), { signal: stop.signal }).catch((e: unknown) => e);
    });
    stops[29].abort();
    for (const answer of await Promise.all(answers)) expect(answer).toBeInstanceOf(Cancelled);
    expect(await link.ask((api) => api.double(4))).toBe(8);
    expect(workers).toMatchObject({ started: 2, ended: 1 });
  });

  it('is over at once when it is ended while a worker still computes what was taken back', async () => {
    const stop = new AbortController();
    const answer = link.ask((api) => api.never(), { signal: stop.signal });
    answer.catch(() => undefined);
    stop.abort();
    await expect(answer).rejects.toThrow(Cancelled);
    link.end();
    expect(workers.ended).toBe(1);
    expect(await link.ask((api) => api.double(4))).toBe(8);
    await new Promise((done) => setTimeout(done, 1050));
    expect(await link.ask((api) => api.double(5))).toBe(10);
    expect(workers).toMatchObject({ started: 2, ended: 1 });
  });
});

describe('a worker that is started ahead', () => {
  it('is the one that is taken, once', () => {
    const workers = new Workers();
    const { ahead, take } = startedAhead(workers.start);
    ahead();
    ahead();
    expect(workers.started).toBe(1);
    const first = take();
    expect(workers.started).toBe(1);
    expect(take()).not.toBe(first);
    expect(workers.started).toBe(2);
    workers.close();
  });

  it('is not taken when it broke while it waited, or could not be started', () => {
    const workers = new Workers();
    const { ahead, take } = startedAhead(workers.start);
    ahead();
    workers.fail('out of memory');
    take();
    expect(workers.started).toBe(2);
    workers.close();
    const refused = startedAhead(() => {
      throw new Error('no more workers');
    });
    expect(() => refused.ahead()).not.toThrow();
    expect(() => refused.take()).toThrow('no more workers');
  });
});
