import { inject, Injectable } from '@angular/core';
import { fileName } from '@early-sparrow/core/keeping';
import { BlobReader, TextReader, Uint8ArrayReader, ZipWriter, type ZipWriterAddDataOptions } from '../common/zip';
import { SONG_FILE_ENDING } from '../common/file-kinds';
import { SongFiles } from '../storage/song-files';
import { recordJson } from '../storage/record-json';
import type { SongInfo } from '../storage/database';
import { SongStore } from '../storage/song-store';
import { BANKS, DAMAGED, LIST, RECIPES, RULES, SETTINGS, type BackupList } from './backup-format';

/** Stored, and with its size before it: so a backup that is cut off can be read as far as it goes. */
const STORED: ZipWriterAddDataOptions = { level: 0, dataDescriptor: false };

/** Writes everything that this browser keeps into one zip file, song by song: no more than one is in memory. */
@Injectable({ providedIn: 'root' })
export class BackupOut {
  private readonly songs = inject(SongStore);
  private readonly files = inject(SongFiles);

  /**
   * @param to where the bytes go; it is closed once all are there, and aborted where that fails
   * @param told how many of the songs are written
   * @returns how many songs could not be read: they go along as they are kept
   */
  async write(
    to: WritableStream<Uint8Array>,
    told: (done: number, all: number) => void,
    signal: AbortSignal,
  ): Promise<{ songs: number; damaged: number }> {
    const zip = new ZipWriter(to);
    const text = (path: string, value: unknown) => zip.add(path, new TextReader(JSON.stringify(value)), STORED);
    const infos = await this.songs.all();
    let damaged = 0;
    try {
      // What a backup that is cut off needs most comes first.
      await text(LIST, listOf(infos));
      await text(RECIPES, await this.songs.recipes.toArray());
      await text(RULES, await this.songs.rules.toArray());
      await text(SETTINGS, { ...localStorage });
      for (const [i, info] of infos.entries()) {
        signal.throwIfAborted();
        told(i, infos.length);
        const bytes = await this.songFile(info.id);
        if (bytes) {
          await zip.add(songPath(info, i), new Uint8ArrayReader(bytes), { ...STORED, signal });
        } else {
          damaged++;
          const record = recordJson(await this.songs.record(info.id));
          await zip.add(`${DAMAGED}${numbered(info, i)}.json`, new TextReader(record), STORED);
        }
      }
      for (const { name, bytes } of await this.songs.banks.toArray()) {
        await zip.add(`${BANKS}${fileName(name)}`, new BlobReader(new Blob([bytes])), { ...STORED, signal });
      }
      signal.throwIfAborted();
      await zip.close();
      return { songs: infos.length - damaged, damaged };
    } catch (error) {
      // Nothing that is half is left behind as a backup.
      await to.abort(error).catch(() => undefined);
      throw error;
    }
  }

  /** Null where the song cannot be read. */
  private async songFile(id: string): Promise<Uint8Array | null> {
    const kept = await this.songs.journal.open(id, false).catch(() => undefined);
    return kept ? this.files.write(id, kept.history, true) : null;
  }
}

const listOf = (infos: readonly SongInfo[]): BackupList => ({
  kind: 'early-sparrow-backup',
  version: 1,
  made: new Date().toISOString(),
  songs: infos.map(({ id, name, created, changed }, i) => ({
    path: songPath({ name }, i),
    id,
    name,
    created,
    changed,
  })),
});

const numbered = ({ name }: { readonly name: string }, i: number) =>
  `${String(i + 1).padStart(4, '0')} ${fileName(name)}`;
const songPath = (info: { readonly name: string }, i: number) => `songs/${numbered(info, i)}${SONG_FILE_ENDING}`;
