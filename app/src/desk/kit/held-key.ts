import { DestroyRef, inject, Injectable } from '@angular/core';
import type { Command, Held } from './command';
import { takingBack } from './taking-back';

/** The key that is held on the desk: one at a time, over when it is let go, taken back by Escape or a lost focus. */
@Injectable()
export class HeldKey {
  private held: { readonly code: string; readonly what: Held } | null = null;

  constructor() {
    const released = (event: KeyboardEvent) => {
      if (event.code === this.held?.code) this.end('drop');
    };
    const destroy = inject(DestroyRef);
    window.addEventListener('keyup', released);
    destroy.onDestroy(() => window.removeEventListener('keyup', released));
    takingBack(
      destroy,
      () => this.held !== null,
      () => this.cancel(),
    );
  }

  /** A key went down. What another key holds is over by that. */
  down(event: Pick<KeyboardEvent, 'code'>, { hold }: Command): void {
    this.end('drop');
    const what = hold?.();
    if (what) this.held = { code: event.code, what };
  }

  cancel(): void {
    this.end('cancel');
  }

  private end(how: keyof Held): void {
    const { held } = this;
    this.held = null;
    held?.what[how]();
  }
}
