import { Injectable, signal } from '@angular/core';

interface Open {
  readonly name: string;
  readonly close: () => void;
}

/** What is open over or beside the picture, by name, so that Escape closes what was opened last. */
@Injectable()
export class Panels {
  private readonly stack = signal<readonly Open[]>([]);

  isOpen(name: string): boolean {
    return this.stack().some((o) => o.name === name);
  }

  /** Opens it; opened again it counts as opened last. @param close what Escape does, beside closing it */
  open(name: string, close: () => void = () => undefined): void {
    this.stack.update((all) => [...all.filter((o) => o.name !== name), { name, close }]);
  }

  /** It is closed; whoever opened it knows that. */
  closed(name: string): void {
    if (this.stack().some((o) => o.name === name)) this.stack.update((all) => all.filter((o) => o.name !== name));
  }

  /** Closes it, and lets whoever opened it know. */
  close(name: string): void {
    const found = this.stack().find((o) => o.name === name);
    this.closed(name);
    found?.close();
  }

  toggle(name: string): void {
    if (this.isOpen(name)) this.close(name);
    else this.open(name);
  }

  closeAll(): void {
    for (const { name } of this.stack()) this.close(name);
  }

  /** Closes what was opened last. False where nothing is open. */
  escape(): boolean {
    const last = this.stack().at(-1);
    if (last) this.close(last.name);
    return last !== undefined;
  }
}
