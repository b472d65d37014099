import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import { inTurns } from '../../common/in-turns';

/** What the user does next is meant for the song as it will be then; and a page that goes takes unfinished work with it. */
const ENDS_IT = ['keydown', 'pointerdown', 'popstate', 'beforeunload', 'pagehide'] as const;

/** Work under way; its result is what ends it: what shows it, or makes it a step. */
type Work = Pieces<() => void>;

/**
 * Long work on the song, done in turns with the page so that it never stands still. Anything that the user does meanwhile
 * finds it done: what is left of it is done at once then.
 */
@Injectable()
export class Turns {
  /** Whether something is being worked out. */
  readonly working = signal(false);
  private under: { readonly work: Work; readonly stop: AbortController } | null = null;

  constructor() {
    const finish = () => this.finish();
    for (const kind of ENDS_IT) addEventListener(kind, finish, { capture: true });
    inject(DestroyRef).onDestroy(() => {
      for (const kind of ENDS_IT) removeEventListener(kind, finish, { capture: true });
      this.finish();
    });
  }

  /** Begins some work; what was under way is finished before. */
  async do(work: Work): Promise<void> {
    this.finish();
    const stop = new AbortController();
    this.under = { work, stop };
    this.working.set(true);
    try {
      const end = await inTurns(work, stop.signal);
      if (end) this.ends(end);
    } catch (error) {
      this.ends(() => undefined);
      throw error;
    }
  }

  /** Does what is left at once. */
  finish(): void {
    const { under } = this;
    if (!under) return;
    under.stop.abort();
    this.ends(() => atOnce(under.work)());
  }

  private ends(end: () => void): void {
    this.under = null;
    this.working.set(false);
    end();
  }
}
