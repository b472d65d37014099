import { Injectable, signal } from '@angular/core';

/** How long a word stays, in ms. */
const STAYS = 8000;

/** A word about what was just done, where it could be taken for something else; it stands at the foot for a while. */
@Injectable({ providedIn: 'root' })
export class Said {
  readonly text = signal('');
  private timer: ReturnType<typeof setTimeout> | undefined;

  say(text: string): void {
    this.text.set(text);
    clearTimeout(this.timer);
    this.timer = setTimeout(() => this.text.set(''), STAYS);
  }
}
