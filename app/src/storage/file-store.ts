import { inject, Injectable } from '@angular/core';
import type { History } from '@early-sparrow/core/edit';
import type { KeptFile } from './database';
import { SongStore } from './song-store';

/** Keeps the sound files that songs play along, each with its song. */
@Injectable({ providedIn: 'root' })
export class FileStore {
  private readonly songs = inject(SongStore);

  /** Keeps a file with its song. Rejects where the browser has no room. */
  async keep(file: KeptFile): Promise<void> {
    await this.songs.files.put(file);
  }

  /** Lets the files of a song go that nothing in it, and nothing that undo could bring back, speaks of. */
  async sweep(song: string, { song: now, undo, redo }: History): Promise<void> {
    const kept = (await this.songs.files.where('song').equals(song).primaryKeys()).map(([, file]) => file);
    if (kept.length === 0) return;
    const spoken = JSON.stringify([now.tracks.map((t) => t.parts.map((p) => p.audio?.file)), undo, redo]);
    const gone = kept.filter((file) => !spoken.includes(file));
    await this.songs.files.bulkDelete(gone.map((file) => [song, file]));
  }

  /** The bytes of a file; undefined where this browser does not have it. */
  async read(song: string, file: string): Promise<ArrayBuffer | undefined> {
    return (await this.songs.files.get([song, file]))?.bytes;
  }
}

/** SHA-256 of some bytes, in hex. */
export async function idOf(bytes: ArrayBuffer): Promise<string> {
  const hash = new Uint8Array(await crypto.subtle.digest('SHA-256', bytes));
  return Array.from(hash, (b) => b.toString(16).padStart(2, '0')).join('');
}
