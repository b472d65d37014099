/** Web Locks as two tabs of one browser would share them: what the standard says of request, steal and signal. */
export class SharedLocks implements Pick<LockManager, 'request'> {
  private readonly held = new Map<string, { reject: (error: Error) => void }>();
  private readonly waiting = new Map<string, (() => void)[]>();

  async request(name: string, ...rest: unknown[]): Promise<never> {
    const options = rest[0] as LockOptions;
    const callback = rest[1] as (lock: Lock | null) => Promise<unknown> | undefined;
    if (options.steal) {
      this.held.get(name)?.reject(new DOMException('stolen', 'AbortError'));
      this.held.delete(name);
    } else if (this.held.has(name)) {
      if (options.ifAvailable) return callback(null) as Promise<never>;
      await new Promise<void>((go, fail) => {
        const list = this.waiting.get(name) ?? [];
        this.waiting.set(name, [...list, go]);
        options.signal?.addEventListener('abort', () => fail(new DOMException('waited', 'AbortError')));
      });
    }
    const lost = new Promise<never>((_, reject) => this.held.set(name, { reject }));
    const mine = this.held.get(name);
    const done = Promise.resolve(callback({ name, mode: 'exclusive' }));
    try {
      return (await Promise.race([done, lost])) as never;
    } finally {
      if (this.held.get(name) === mine) {
        this.held.delete(name);
        this.waiting.get(name)?.shift()?.();
      }
    }
  }

  get manager(): LockManager {
    return this as unknown as LockManager;
  }
}

/** A channel between tabs, which jsdom does not have. */
export class FakeChannel extends EventTarget {
  private static readonly all: FakeChannel[] = [];
  constructor(readonly name: string) {
    super();
    FakeChannel.all.push(this);
  }
  postMessage(data: unknown): void {
    for (const other of FakeChannel.all) {
      if (other !== this && other.name === this.name) other.dispatchEvent(new MessageEvent('message', { data }));
    }
  }
  close(): void {
    FakeChannel.all.splice(FakeChannel.all.indexOf(this), 1);
  }
}
