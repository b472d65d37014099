import { DestroyRef, inject, Injectable, signal } from '@angular/core';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import { inTurns } from '../../common/in-turns';

/** What the user does next is meant for the song as it will be then; and a page that goes takes unfinished work with it. */
const ENDS_IT = ['keydown', 'pointerdown', 'popstate', 'beforeunload', 'pagehide'] as const;

/** Its result is what ends the work: what shows it, or makes it a step. */
type Work = Pieces<() => void>;

/** Work under way. Its end is there once nothing is left to be worked out. */
interface Under {
  readonly work: Work;
  readonly stop: AbortController;
  end?: () => void;
}

/**
 * Long work on the song, done in turns with the page so that it never stands still. Anything that the user does meanwhile
 * finds it done: what is left of it is done at once then.
 */
@Injectable()
export class Turns {
  /** Whether something is being worked out. */
  readonly working = signal(false);
  private under: Under | null = null;

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
    const under: Under = { work, stop: new AbortController() };
    this.under = under;
    this.working.set(true);
    try {
      await inTurns(keepingItsEnd(under), under.stop.signal);
    } finally {
      // Unless it was finished meanwhile.
      if (this.under === under) this.finish();
    }
  }

  /** Does what is left at once. */
  finish(): void {
    const { under } = this;
    if (!under) return;
    under.stop.abort();
    this.under = null;
    this.working.set(false);
    const end = under.end ?? atOnce(under.work);
    end();
  }
}

/** Work that is over in its first turn can be finished before it is known to be over, and can be asked only once. */
function* keepingItsEnd(under: Under): Pieces<void> {
  try {
    under.end = yield* under.work;
  } catch (error) {
    under.end = () => undefined;
    throw error;
  }
}
