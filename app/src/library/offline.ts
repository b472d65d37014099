import { Injectable, signal } from '@angular/core';

/** The list of what the service worker keeps. */
interface Kept {
  readonly hashTable?: Readonly<Record<string, string>>;
}

/** How often it is looked again while files still come in, and how often at most; ms. */
const AGAIN = 1000;
const MOST_LOOKS = 120;

/** Whether the program works without a connection: everything of it lies in the browser. */
@Injectable({ providedIn: 'root' })
export class Offline {
  readonly ready = signal(false);
  private looks = 0;

  async look(): Promise<void> {
    if (this.ready() || !('serviceWorker' in navigator)) return;
    this.ready.set(await this.isWhole().catch(() => false));
    if (!this.ready() && ++this.looks < MOST_LOOKS) setTimeout(() => void this.look(), AGAIN);
  }

  private async isWhole(): Promise<boolean> {
    if (!(await navigator.serviceWorker.getRegistration())?.active) return false;
    const { hashTable } = (await (await fetch('/ngsw.json')).json()) as Kept;
    const files = Object.keys(hashTable ?? {});
    const there = await Promise.all(files.map((file) => caches.match(file)));
    return files.length > 0 && there.every((kept) => kept !== undefined);
  }
}
