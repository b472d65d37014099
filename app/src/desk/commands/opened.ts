import { Injectable } from '@angular/core';

/** What was opened over or beside the picture, so that Escape closes what was opened last. */
@Injectable()
export class Opened {
  private readonly stack: { readonly name: string; readonly close: () => void }[] = [];

  /** Notes that something is open; opened again it counts as opened last. */
  open(name: string, close: () => void): void {
    this.closed(name);
    this.stack.push({ name, close });
  }

  closed(name: string): void {
    const at = this.stack.findIndex((o) => o.name === name);
    if (at >= 0) this.stack.splice(at, 1);
  }

  /** Closes what was opened last. False where nothing is open. */
  escape(): boolean {
    const last = this.stack.pop();
    last?.close();
    return last !== undefined;
  }
}
