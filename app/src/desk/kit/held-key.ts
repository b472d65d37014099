import { DestroyRef, inject, Injectable } from '@angular/core';
import type { Command, Held } from './command';

/** The key that is held on the desk: one at a time, over when it is let go, taken back by Escape or a lost focus. */
@Injectable()
export class HeldKey {
  private held: { readonly code: string; readonly what: Held } | null = null;

  constructor() {
    const released = (event: KeyboardEvent) => {
      if (event.code === this.held?.code) this.end('drop');
    };
    const escape = (event: KeyboardEvent) => {
      if (event.key !== 'Escape' || !this.held) return;
      event.stopImmediatePropagation();
      event.preventDefault();
      this.cancel();
    };
    const lost = () => this.cancel();
    window.addEventListener('keyup', released);
    window.addEventListener('keydown', escape, true);
    window.addEventListener('blur', lost);
    inject(DestroyRef).onDestroy(() => {
      window.removeEventListener('keyup', released);
      window.removeEventListener('keydown', escape, true);
      window.removeEventListener('blur', lost);
      this.cancel();
    });
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
