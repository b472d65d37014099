/** How long a tab that was asked may take to hand a song over, in ms, before it is taken from it. */
const HAND_OVER_MS = 2000;

/**
 * The right to write a song: one tab has it at a time (Web Locks). Another can ask for it; then the first one writes
 * what is open and hands it over. A tab that does not answer loses it.
 */
export class WriterLock {
  private held: (() => void) | null = null;
  private readonly channel: BroadcastChannel | null;
  private readonly name: string;

  /** Called when another tab asks for the right: what is open is to be written before it goes. */
  onAsked: () => Promise<void> = () => Promise.resolve();
  /** Called once the right is gone to another tab. */
  onLost: () => void = () => undefined;

  constructor(
    songId: string,
    private readonly locks: LockManager | undefined = navigator.locks,
  ) {
    this.name = `early-sparrow-song-${songId}`;
    this.channel = typeof BroadcastChannel === 'undefined' ? null : new BroadcastChannel(this.name);
    this.channel?.addEventListener('message', () => void this.handOver());
  }

  get isHeld(): boolean {
    return this.held !== null;
  }

  /** Takes the right if nobody has it. */
  take(): Promise<boolean> {
    return this.request({ ifAvailable: true });
  }

  /** Asks whoever has the right for it, and takes it. */
  async takeOver(): Promise<boolean> {
    this.channel?.postMessage('hand over');
    const patience = new AbortController();
    const timer = setTimeout(() => patience.abort(), HAND_OVER_MS);
    try {
      return await this.request({ signal: patience.signal });
    } catch {
      return this.request({ steal: true });
    } finally {
      clearTimeout(timer);
    }
  }

  /** Gives the right back and listens no more. */
  release(): void {
    this.letGo();
    this.channel?.close();
  }

  private async handOver(): Promise<void> {
    if (!this.held) return;
    await this.onAsked();
    this.letGo();
    this.onLost();
  }

  private letGo(): void {
    this.held?.();
    this.held = null;
  }

  private request(options: LockOptions): Promise<boolean> {
    // Where a browser has no locks nobody else can be kept out, and nobody is asked.
    if (!this.locks) {
      this.held = () => undefined;
      return Promise.resolve(true);
    }
    return new Promise<boolean>((done, fail) => {
      this.locks
        ?.request(this.name, options, (lock) => {
          if (!lock) {
            done(false);
            return undefined;
          }
          return new Promise<void>((release) => {
            this.held = release;
            done(true);
          });
        })
        .catch((error: unknown) => {
          // A right that is held can be taken away; one that was only asked for was not given.
          if (this.held) {
            this.held = null;
            this.onLost();
          } else fail(error as Error);
        });
    });
  }
}
