import { inject, Injectable } from '@angular/core';
import { digest, fileName } from '@early-sparrow/core/keeping';
import { BlobReader, TextReader, Uint8ArrayReader, ZipWriter, type ZipWriterAddDataOptions } from '../common/zip';
import { SONG_FILE_ENDING } from '../common/file-kinds';
import { SongFiles } from '../storage/song-files';
import { recordJson } from '../storage/record-json';
import { SongStore } from '../storage/song-store';
import { BANKS, DAMAGED, LIST, RECIPES, RULES, SETTINGS, type BackupList } from './backup-format';

const STORED: ZipWriterAddDataOptions = { level: 0 };

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
    const list: BackupList['songs'][number][] = [];
    const infos = await this.songs.all();
    let damaged = 0;
    try {
      for (const [i, { id, name, created, changed }] of infos.entries()) {
        signal.throwIfAborted();
        told(i, infos.length);
        const number = String(i + 1).padStart(4, '0');
        const bytes = await this.songFile(id);
        if (bytes) {
          const path = `songs/${number} ${fileName(name)}${SONG_FILE_ENDING}`;
          await zip.add(path, new Uint8ArrayReader(bytes), { ...STORED, signal });
          list.push({ path, id, name, created, changed, sha256: await digest(bytes) });
        } else {
          damaged++;
          await zip.add(
            `${DAMAGED}${number} ${fileName(name)}.json`,
            new TextReader(recordJson(await this.songs.record(id))),
          );
        }
      }
      await zip.add(RECIPES, new TextReader(JSON.stringify(await this.songs.recipes.toArray())));
      await zip.add(RULES, new TextReader(JSON.stringify(await this.songs.rules.toArray())));
      await zip.add(SETTINGS, new TextReader(JSON.stringify({ ...localStorage })));
      for (const { name, bytes } of await this.songs.banks.toArray()) {
        await zip.add(`${BANKS}${fileName(name)}`, new BlobReader(new Blob([bytes])), { ...STORED, signal });
      }
      const made = new Date().toISOString();
      const about: BackupList = { kind: 'early-sparrow-backup', version: 1, made, songs: list };
      await zip.add(LIST, new TextReader(JSON.stringify(about)));
      signal.throwIfAborted();
      await zip.close();
      return { songs: list.length, damaged };
    } catch (error) {
      // Nothing that is half is left behind as a backup.
      await to.abort(error).catch(() => undefined);
      throw error;
    }
  }

  /** Null where the song cannot be read. */
  private async songFile(id: string): Promise<Uint8Array | null> {
    const kept = await this.songs.open(id, false).catch(() => undefined);
    return kept ? this.files.write(id, kept.history, true) : null;
  }
}
