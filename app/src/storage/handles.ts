import { inject, Injectable } from '@angular/core';
import { SongStore } from './song-store';

/** Remembers the file on the user's disk that a song came from, so that it can be saved there again. */
@Injectable({ providedIn: 'root' })
export class Handles {
  private readonly songs = inject(SongStore);

  /** Remembers it; where the browser cannot, the next save asks for a place. */
  async keep(song: string, handle: FileSystemFileHandle): Promise<void> {
    await this.songs.handles.put({ song, handle }).catch(() => undefined);
  }

  async of(song: string): Promise<FileSystemFileHandle | undefined> {
    return (await this.songs.handles.get(song).catch(() => undefined))?.handle;
  }
}
