import { proxy, wrap, type ProxyMarked, type Remote } from 'comlink';

/** The worker could not be started, or broke: it is the program's fault, not that of what it was asked about. */
export class WorkerFault extends Error {}
/** The question was taken back. */
export class Cancelled extends Error {}

/** Tells how far it is, from 0 to 1. */
export type Told = (share: number) => void;

export interface AskOptions {
  /** Takes the question back: the worker is ended, since it hears nothing while it computes. */
  readonly signal?: AbortSignal;
  readonly told?: Told;
}

/**
 * The one way to a worker: typed, cancellable, with progress, and with its faults told apart from those of what it was
 * asked about, which are thrown as they are. The worker starts with the first question and stays for the next ones;
 * questions are answered one after the other. It has one proxy that is held on to: when a proxy is released or
 * collected as garbage, its worker listens to nobody any more.
 */
export class WorkerLink<Api> {
  private worker: Worker | null = null;
  private api: Remote<Api> | null = null;
  /** Until the last question is answered; null where none is. */
  private last: Promise<unknown> | null = null;
  private idle: ReturnType<typeof setTimeout> | undefined;

  /** @param idleMs a worker that is asked nothing for so long is ended, where it keeps nothing for the next question */
  constructor(
    private readonly start: () => Worker,
    private readonly idleMs: number | null = null,
  ) {}

  /** @throws WorkerFault, Cancelled, or what the worker throws */
  ask<Answer>(
    question: (api: Remote<Api>, told: Told & ProxyMarked) => Promise<Answer>,
    options: AskOptions = {},
  ): Promise<Answer> {
    // Where nothing is being answered it goes off at once: what the page is in the middle of may take long.
    const answer = this.last ? this.last.then(() => this.askNow(question, options)) : this.askNow(question, options);
    const over = answer
      .catch(() => undefined)
      .then(() => {
        if (this.last === over) this.last = null;
      });
    this.last = over;
    return answer;
  }

  /** Ends the worker; a further question starts another. */
  end(): void {
    clearTimeout(this.idle);
    this.worker?.terminate();
    this.worker = null;
    this.api = null;
  }

  private started(): Worker {
    try {
      return this.start();
    } catch (error) {
      throw new WorkerFault(error instanceof Error ? error.message : 'The worker could not be started.');
    }
  }

  private async askNow<Answer>(
    question: (api: Remote<Api>, told: Told & ProxyMarked) => Promise<Answer>,
    { signal, told }: AskOptions,
  ): Promise<Answer> {
    if (signal?.aborted) throw new Cancelled();
    clearTimeout(this.idle);
    const worker = (this.worker ??= this.started());
    const api = (this.api ??= wrap<Api>(worker));
    let give: (reason: Error) => void = () => undefined;
    const ended = new Promise<never>((_, reject) => (give = reject));
    const broken = (event: ErrorEvent) => give(new WorkerFault(event.message || 'The worker could not be started.'));
    const cancelled = () => give(new Cancelled());
    worker.addEventListener('error', broken);
    signal?.addEventListener('abort', cancelled);
    let open = true;
    const tell = proxy((share: number) => {
      if (open) told?.(share);
    });
    try {
      return await Promise.race([question(api, tell), ended]);
    } catch (error) {
      // A worker that broke, or still computes what nobody wants, is of no more use.
      if (error instanceof WorkerFault || error instanceof Cancelled) this.end();
      throw error;
    } finally {
      open = false;
      worker.removeEventListener('error', broken);
      signal?.removeEventListener('abort', cancelled);
      if (this.idleMs !== null) this.idle = setTimeout(() => this.end(), this.idleMs);
    }
  }
}
