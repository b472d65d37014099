import { Injectable } from '@angular/core';

/** How a new song begins: by playing something in, or by bringing in a file. */
export type Begins = 'record' | 'import';

/** Passes what a new song is to begin with to the desk that opens it. */
@Injectable({ providedIn: 'root' })
export class Beginning {
  private wish: { readonly song: string; readonly by: Begins } | null = null;

  set(song: string, by: Begins): void {
    this.wish = { song, by };
  }

  /** What a song is to begin with, once. */
  take(song: string): Begins | null {
    const { wish } = this;
    this.wish = null;
    return wish?.song === song ? wish.by : null;
  }
}
