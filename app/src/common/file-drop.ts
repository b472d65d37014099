import { DestroyRef, inject, Injectable } from '@angular/core';

/** Passes files that are dropped anywhere in the window to the page that wants them, in place of opening them as songs. */
@Injectable({ providedIn: 'root' })
export class FileDrop {
  private taker: ((files: readonly File[]) => void) | null = null;

  /** Takes what is dropped for as long as the page is there. Called where services are injected. */
  take(taker: (files: readonly File[]) => void): void {
    this.taker = taker;
    inject(DestroyRef).onDestroy(() => {
      if (this.taker === taker) this.taker = null;
    });
  }

  /** @returns whether anybody takes them */
  give(files: readonly File[]): boolean {
    this.taker?.(files);
    return this.taker !== null;
  }
}
