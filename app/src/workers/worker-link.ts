import { proxy, wrap, type ProxyMarked, type Remote } from 'comlink';

/** The worker could not be started, or broke: it is the program's fault, not that of what it was asked about. */
export class WorkerFault extends Error {}
/** The question was taken back. */
export class Cancelled extends Error {}

/** Tells how far it is, from 0 to 1. */
export type Told = (share: number) => void;

/** Ms that a worker may still compute what was taken back: with another one, which compiles all anew, it takes as long. */
const PATIENCE_MS = 1000;

export interface AskOptions {
  /** Takes the question back. The worker hears nothing while it computes: it is ended unless it is done very soon. */
  readonly signal?: AbortSignal;
  readonly told?: Told;
}

/** Ms that something which began at `begin` will still take, by the share that is done; 0 while that is not known. */
function msLeft(begin: number, done: number): number {
  return done > 0 ? (performance.now() - begin) * (1 / done - 1) : 0;
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
  /** Until the worker has answered what was taken back, or was ended. */
  private letGo: Promise<void> = Promise.resolve();
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
      .then(() => this.letGo)
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

  /** One that answers soon stays for the next question: what it has compiled makes it several times as fast as a new one. */
  private async endUnlessSoonDone(worker: Worker, answer: Promise<unknown>, left: number): Promise<void> {
    let patience: ReturnType<typeof setTimeout> | undefined;
    const over = new Promise<boolean>((done) => {
      patience = setTimeout(() => done(false), left > PATIENCE_MS ? 0 : PATIENCE_MS);
    });
    const answered = answer.then(
      () => true,
      () => true,
    );
    const kept = await Promise.race([answered, over]);
    clearTimeout(patience);
    if (!kept && this.worker === worker) this.end();
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
    const begin = performance.now();
    let done = 0;
    worker.addEventListener('error', broken);
    signal?.addEventListener('abort', cancelled);
    let open = true;
    const tell = proxy((share: number) => {
      done = share;
      if (open) told?.(share);
    });
    let answer: Promise<Answer> | undefined;
    try {
      answer = question(api, tell);
      return await Promise.race([answer, ended]);
    } catch (error) {
      if (error instanceof WorkerFault) this.end();
      if (error instanceof Cancelled && answer)
        this.letGo = this.endUnlessSoonDone(worker, answer, msLeft(begin, done));
      throw error;
    } finally {
      open = false;
      worker.removeEventListener('error', broken);
      signal?.removeEventListener('abort', cancelled);
      if (this.idleMs !== null) this.idle = setTimeout(() => this.end(), this.idleMs);
    }
  }
}
