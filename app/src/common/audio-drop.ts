import { Injectable } from '@angular/core';

/** Passes sound files that are dropped anywhere in the window to the song that is open. */
@Injectable({ providedIn: 'root' })
export class AudioDrop {
  private taker: ((file: File) => void) | null = null;

  /** Takes what is dropped from now on. @returns lets it go again */
  take(taker: (file: File) => void): () => void {
    this.taker = taker;
    return () => {
      if (this.taker === taker) this.taker = null;
    };
  }

  /** @returns whether anybody takes it */
  give(file: File): boolean {
    this.taker?.(file);
    return this.taker !== null;
  }
}
