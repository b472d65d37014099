import { inject, Injectable } from '@angular/core';
import type { History } from '@early-sparrow/core/edit';
import { digest } from '@early-sparrow/core/maths';
import type { KeptFile } from './database';
import { SongStore } from './song-store';

/** Keeps the sound files that songs play along, each with its song. */
@Injectable({ providedIn: 'root' })
export class FileStore {
  private readonly songs = inject(SongStore);
  /** What was kept or read here, by song: a song that is deleted elsewhere takes its files along. */
  private readonly seen = new Map<string, Map<string, { readonly name: string; readonly bytes: Blob }>>();

  /** Keeps a file with its song. Rejects where the browser has no room. */
  async keep(named: Omit<KeptFile, 'size'>): Promise<void> {
    const file = { ...named, size: named.bytes.byteLength };
    this.see(file);
    await this.songs.files.put(file);
  }

  /** Keeps the files of a song with another one too, or with itself again, where they are gone. */
  async keepAgain(from: string, to: string): Promise<void> {
    for (const [file, { name, bytes }] of this.seen.get(from) ?? []) {
      if ((await this.songs.files.where('[song+file]').equals([to, file]).count()) > 0) continue;
      await this.songs.files.put({ song: to, file, name, size: bytes.size, bytes: await bytes.arrayBuffer() });
    }
  }

  private see({ song, file, name, bytes }: KeptFile): void {
    const seen = this.seen.get(song) ?? new Map<string, { readonly name: string; readonly bytes: Blob }>();
    this.seen.set(song, seen.set(file, { name, bytes: new Blob([bytes]) }));
  }

  /** Lets the files of a song go that nothing in it, and nothing that undo could bring back, speaks of. */
  async sweep(song: string, { song: now, undo, redo }: History): Promise<void> {
    const kept = (await this.songs.files.where('song').equals(song).primaryKeys()).map(([, file]) => file);
    if (kept.length === 0) return;
    // Steps that were set aside may be mended one day.
    const damaged = await this.songs.damaged.where('song').equals(song).toArray();
    const spoken = JSON.stringify([now.tracks.map((t) => t.parts.map((p) => p.audio?.file)), undo, redo, damaged]);
    const gone = kept.filter((file) => !spoken.includes(file));
    await this.songs.files.bulkDelete(gone.map((file) => [song, file]));
  }

  /** The bytes of a file; undefined where this browser does not have it. */
  async read(song: string, file: string): Promise<ArrayBuffer | undefined> {
    const kept = await this.songs.files.get([song, file]);
    if (kept) this.see(kept);
    return kept?.bytes;
  }
}

/** What a song names a sound file by. */
export function idOf(bytes: ArrayBuffer): Promise<string> {
  return digest(new Uint8Array(bytes));
}
