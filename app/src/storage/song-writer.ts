import { notesIn, type Deed, type History } from '@early-sparrow/core/edit';
import { ConflictError, GoneError, type Journal, type NumberedDeed } from './journal';

/** What stands between a song and its being kept. */
export type Trouble =
  /** The browser cannot write; it is tried again. */
  | 'failed'
  /** The song was deleted, or the browser's data were cleared. */
  | 'gone'
  /** Another tab has written to it. */
  | 'conflict';

/** What a writer tells: how many steps are not written yet, and what is wrong. */
export interface WriterState {
  readonly unsaved: number;
  readonly trouble: Trouble | null;
}

/** Pauses before a write that failed is tried again, in ms; the last one from then on. */
const AGAIN_MS = [500, 1500, 4000, 10_000];
/** After so many steps the song is written anew, once nothing has happened for a while. */
const LONG_JOURNAL = 200;
const IDLE_MS = 2000;

/** A step with more notes than this is written in a task of its own. */
const HEAVY = 5000;

/**
 * Writes the steps of one song, in their order, as soon as they are done. While one write is under way others wait and
 * go together in the next. What cannot be written stays here, and nothing is called written that is not.
 */
export class SongWriter {
  private readonly queue: NumberedDeed[] = [];
  private busy: Promise<void> | null = null;
  private failures = 0;
  private timer: ReturnType<typeof setTimeout> | undefined;
  private idle: ReturnType<typeof setTimeout> | undefined;
  private trouble: Trouble | null = null;
  private history: History | null = null;
  private inJournal = 0;
  private closed = false;

  /** @param n number of the last step that is written */
  constructor(
    private readonly journal: Journal,
    private readonly id: string,
    private n: number,
    private readonly told: (state: WriterState) => void,
  ) {}

  /** Takes a step, and the history after it. */
  add(deed: Deed, history: History): void {
    this.queue.push({ ...deed, n: this.n + 1 });
    this.n++;
    this.history = history;
    this.tell();
    if (this.trouble !== 'gone' && this.trouble !== 'conflict') void this.flush();
  }

  /** Number of the last step that was taken. */
  get last(): number {
    return this.n;
  }

  /** Writes what is waiting; resolves once it is written or cannot be. */
  flush(): Promise<void> {
    this.busy ??= this.writeAll().finally(() => (this.busy = null));
    return this.busy;
  }

  /** The song is kept again, with all steps up to a number: those that came since go on waiting, and are written. */
  keptUpTo(n: number): void {
    this.queue.splice(0, this.queue.length, ...this.queue.filter((step) => step.n > n));
    this.trouble = null;
    this.failures = 0;
    this.tell();
    if (this.queue.length > 0) void this.flush();
  }

  /** Another tab has the right to write now: what is still waiting can go nowhere. */
  stop(): void {
    this.closed = true;
    clearTimeout(this.timer);
    clearTimeout(this.idle);
    if (this.queue.length > 0) this.trouble = 'conflict';
    this.tell();
  }

  /** Writes what is waiting and ends. */
  async close(): Promise<void> {
    this.closed = true;
    clearTimeout(this.timer);
    clearTimeout(this.idle);
    await this.flush();
  }

  private async writeAll(): Promise<void> {
    if (this.trouble === 'conflict') return;
    clearTimeout(this.timer);
    clearTimeout(this.idle);
    while (this.queue.length > 0) {
      // Packing very many notes takes a frame's time or more: what is on screen comes first.
      if (this.queue.some(({ edit }) => notesIn(edit) > HEAVY)) await new Promise((next) => setTimeout(next));
      const batch = [...this.queue];
      try {
        await this.journal.append(this.id, batch);
      } catch (error) {
        this.fail(error);
        return;
      }
      // Steps that came meanwhile wait behind those that were written.
      this.queue.splice(0, batch.length);
      this.inJournal += batch.length;
      this.failures = 0;
      this.trouble = null;
      this.tell();
    }
    // The list may be told later: nothing of the song depends on it.
    if (this.history) void this.journal.tellList(this.id, this.history.song.name).catch(() => undefined);
    if (!this.closed && this.inJournal >= LONG_JOURNAL) this.idle = setTimeout(() => void this.shorten(), IDLE_MS);
  }

  private fail(error: unknown): void {
    this.trouble = error instanceof GoneError ? 'gone' : error instanceof ConflictError ? 'conflict' : 'failed';
    this.tell();
    if (this.trouble !== 'failed' || this.closed) return;
    this.timer = setTimeout(() => void this.flush(), AGAIN_MS[Math.min(this.failures++, AGAIN_MS.length - 1)]);
  }

  /** Writes the song anew, so that opening it has few steps to replay. That may wait: nothing depends on it. */
  private async shorten(): Promise<void> {
    if (!this.history || this.queue.length > 0) return;
    try {
      await this.journal.snapshot(this.id, this.history, this.n);
      this.inJournal = 0;
    } catch {
      // The steps are all there; it is tried again after the next ones.
    }
  }

  private tell(): void {
    this.told({ unsaved: this.queue.length, trouble: this.trouble });
  }
}
