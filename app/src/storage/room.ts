import { inject, Injectable, signal } from '@angular/core';
import { SOUNDS_CACHE } from '../workers/bank-api';
import { SongStore } from './song-store';

/** What the browser keeps, and how much more it would take; bytes. */
export interface Room {
  readonly songs: number;
  readonly soundFiles: number;
  /** Instruments' sounds. */
  readonly sounds: number;
  readonly free: number;
  /** Whether the browser promised not to clear it by itself. */
  readonly safe: boolean;
}

/** Some browsers tell what the storage is used for. */
interface Detailed extends StorageEstimate {
  readonly usageDetails?: { readonly indexedDB?: number };
}

/** With less room than this the page warns: a long recording would fill it. */
const LITTLE = 200_000_000;

/** How much of the browser's storage is used, and for what. */
@Injectable({ providedIn: 'root' })
export class StorageRoom {
  private readonly store = inject(SongStore);
  /** Null before it is known, or where the browser does not say. */
  readonly room = signal<Room | null>(null);

  async measure(): Promise<void> {
    try {
      const { usage = 0, quota = 0, usageDetails }: Detailed = await navigator.storage.estimate();
      const soundFiles = await this.store.soundBytes();
      const sounds = await bankBytes();
      const own = (await this.store.banks.toArray()).reduce((sum, b) => sum + b.bytes.byteLength, 0);
      // Without the parts the program itself counts among the songs where it is kept.
      const songs = Math.max(0, (usageDetails?.indexedDB ?? usage - sounds) - soundFiles - own);
      const safe = await navigator.storage.persisted();
      this.room.set({ songs, soundFiles, sounds: sounds + own, free: Math.max(0, quota - usage), safe });
    } catch {
      this.room.set(null);
    }
  }

  /** Asks the browser not to clear what is kept; it may ask the user. */
  async makeSafe(): Promise<boolean> {
    const safe = await navigator.storage.persist().catch(() => false);
    await this.measure();
    return safe;
  }

  /** A sentence where so many more bytes would not fit; null where they do, or nobody knows. */
  async lack(bytes: number): Promise<string | null> {
    let estimate: StorageEstimate = {};
    try {
      estimate = await navigator.storage.estimate();
    } catch {
      // Browsers without an answer find out while they write.
    }
    const { usage = 0, quota = 0 } = estimate;
    if (quota === 0 || usage + bytes <= quota) return null;
    return `It needs ${sizeText(bytes)}, but the browser has room for ${sizeText(quota - usage)}. Delete songs or free disk space first.`;
  }
}

export function isLittle({ free }: Room): boolean {
  return free < LITTLE;
}

/** `3.4 MB`. */
export function sizeText(bytes: number): string {
  if (bytes < 100_000) return `${Math.max(bytes === 0 ? 0 : 1, Math.round(bytes / 1000))}\u00a0kB`;
  if (bytes < 999_500_000) return `${(bytes / 1e6).toFixed(bytes < 9.95e6 ? 1 : 0)}\u00a0MB`;
  return `${(bytes / 1e9).toFixed(1)}\u00a0GB`;
}

/** Bytes of the instruments' sounds that were fetched. */
async function bankBytes(): Promise<number> {
  if (!(await caches.has(SOUNDS_CACHE))) return 0;
  const cache = await caches.open(SOUNDS_CACHE);
  const kept = await cache.matchAll();
  const sizes = await Promise.all(kept.map(async (r) => (await r.blob()).size));
  return sizes.reduce((sum, size) => sum + size, 0);
}
