import './streams';
import { TestBed } from '@angular/core/testing';
import type { History } from '@early-sparrow/core/edit';
import { readSongFile, writeSongFile } from '@early-sparrow/core/keeping';
import { BackupIn } from '../src/library/backup-in';
import { BackupOut } from '../src/library/backup-out';
import { SongFiles } from '../src/storage/song-files';
import { SongStore } from '../src/storage/song-store';
import { base, does, freshStore } from './kept';

/** Song files as the worker reads and writes them. */
const files = {
  read: async (file: Blob) => readSongFile(new Uint8Array(await file.arrayBuffer())),
  write: (_id: string, history: History) => writeSongFile({ history, sounds: [] }, true),
};

describe('a backup that is brought back', () => {
  const signal = new AbortController().signal;
  let songs: SongStore;
  beforeEach(() => {
    ({ songs } = freshStore());
    TestBed.configureTestingModule({
      providers: [
        { provide: SongStore, useValue: songs },
        { provide: SongFiles, useValue: files },
      ],
    });
  });

  async function backUp(): Promise<Blob> {
    const parts: Uint8Array[] = [];
    const to = new WritableStream<Uint8Array>({ write: (part) => void parts.push(part.slice()) });
    await TestBed.inject(BackupOut).write(to, () => undefined, signal);
    return new Blob(parts as BlobPart[]);
  }
  const bringBack = (backup: Blob) => TestBed.inject(BackupIn).read(backup, () => undefined, signal);
  const change = (id: string, n: number) => songs.journal.append(id, [{ n, ...does(`state ${n}`) }]);
  const names = async () => (await songs.all()).map((s) => s.name).sort();

  it('brings each of two songs of one name that have changed since, and neither a second time', async () => {
    const ids = [await songs.add({ ...base, name: 'Ferry' }), await songs.add({ ...base, name: 'Ferry' })];
    const backup = await backUp();
    expect(await bringBack(backup)).toMatchObject({ songs: 0, same: 2, beside: 0 });
    for (const id of ids) await change(id, 1);
    expect(await bringBack(backup)).toMatchObject({ songs: 0, same: 0, beside: 2 });
    expect(await names()).toEqual([
      'Ferry',
      'Ferry',
      ...Array(2).fill(expect.stringMatching(/^Ferry \(backup of .*\)$/)),
    ]);
    // Whatever they are called by then.
    const [copy] = (await songs.all()).filter((s) => s.name !== 'Ferry');
    await songs.rename(copy.id, 'Kept from the backup');
    expect(await bringBack(backup)).toMatchObject({ songs: 0, same: 2, beside: 0 });
    expect(await songs.count()).toBe(4);
  });

  it('brings each state of a song that backups of one day hold', async () => {
    const id = await songs.add(base);
    const morning = await backUp();
    await change(id, 1);
    const evening = await backUp();
    await change(id, 2);
    for (const backup of [morning, evening]) expect(await bringBack(backup)).toMatchObject({ same: 0, beside: 1 });
    const lengths = await Promise.all(
      (await songs.all()).map(async (s) => (await songs.open(s.id, false))?.history.undo.length),
    );
    expect(lengths.sort()).toEqual([0, 1, 2]);
  });

  it('says of a long name, too, that it is the backup’s', async () => {
    const long = 'x'.repeat(200);
    const id = await songs.add({ ...base, name: long });
    const backup = await backUp();
    await change(id, 1);
    expect(await bringBack(backup)).toMatchObject({ same: 0, beside: 1 });
    const [beside] = (await names()).filter((name) => name !== long);
    expect(beside).toMatch(/^x+ \(backup of \d{4}-\d\d-\d\d\)$/);
    expect(beside).toHaveLength(200);
  });
});
