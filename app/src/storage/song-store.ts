import { Injectable } from '@angular/core';
import { liveQuery } from 'dexie';
import { doEdit, isProblem, type History } from '@early-sparrow/core/edit';
import type { SoundFile } from '@early-sparrow/core/keeping';
import { longerTitle, noteCount, songEnd, tempoOf, unpack, type Song } from '@early-sparrow/core/song';
import { lastEndOf } from '@early-sparrow/core/treatment';
import { inTurns } from '../common/in-turns';
import {
  Database,
  type Damaged,
  type JournalEntry,
  type KeptFile,
  type OldEntry,
  type Snapshot,
  type SongInfo,
} from './database';
import { glancePieces } from './glance';
import { Journal, snapshotOf, type KeptSong } from './journal';
import { WriterLock } from './writer-lock';

/** A song with all that belongs to it, for taking a deletion back. */
export interface StoredSong {
  readonly info: SongInfo;
  readonly snapshot: Snapshot;
  readonly entries: readonly JournalEntry[];
  readonly old: readonly OldEntry[];
  readonly damaged: readonly Damaged[];
  readonly files: readonly KeptFile[];
}

/** Something about songs that cannot be done now; the message says why and what to do. */
export class SongsError extends Error {}

/** The songs that this browser keeps: each a snapshot and a journal of everything done since. */
@Injectable({ providedIn: 'root' })
export class SongStore {
  protected readonly database: Database = new Database();
  readonly journal = new Journal(this.database);
  /** The song that was added last, until one is opened: it need not be read again. */
  private added: { readonly id: string; readonly kept: KeptSong } | null = null;

  /** The list of songs, the last changed first; emits again at every change. */
  readonly list$ = liveQuery(() => this.database.infos.orderBy('changed').reverse().toArray());

  /** What is being played in. */
  get played(): Database['played'] {
    return this.database.played;
  }

  /** Sound files of the songs. */
  get files(): Database['files'] {
    return this.database.files;
  }

  /** Steps that were set aside. */
  get damaged(): Database['damaged'] {
    return this.database.damaged;
  }

  get banks(): Database['banks'] {
    return this.database.banks;
  }

  /** Files on the user's disk that songs are saved to. */
  get handles(): Database['handles'] {
    return this.database.handles;
  }

  /** The saved recipes' table, in the same database. */
  get recipes(): Database['recipes'] {
    return this.database.recipes;
  }

  /** That of the saved rules. */
  get rules(): Database['rules'] {
    return this.database.rules;
  }

  count(): Promise<number> {
    return this.database.infos.count();
  }

  all(): Promise<SongInfo[]> {
    return this.database.infos.orderBy('changed').reverse().toArray();
  }

  info(id: string): Promise<SongInfo | undefined> {
    return this.database.infos.get(id);
  }

  /** Bytes of all sound files, without reading them. */
  async soundBytes(): Promise<number> {
    const sizes = await this.files.orderBy('size').keys();
    return sizes.reduce((sum: number, size) => sum + (size as number), 0);
  }

  /**
   * Keeps a new song and gives its id.
   * @param like id of the song whose sound files it plays too
   * @param packed the song, where it is packed already
   */
  async add(song: Song, { like, packed }: { like?: string; packed?: unknown } = {}): Promise<string> {
    const id = crypto.randomUUID();
    const kept: KeptSong = { history: { song, undo: [], redo: [] }, n: 0, damage: null };
    const files = like === undefined ? [] : await this.files.where('song').equals(like).toArray();
    await this.put(id, kept, { packed, files });
    this.added = { id, kept };
    // Asked once there is something to lose: the browser may then not clear it by itself.
    void navigator.storage?.persist?.().catch(() => false);
    return id;
  }

  /**
   * Keeps a song that came with its history and its sound files, all of it or nothing, and gives its id.
   * @param as id and dates that it had; without them it is a new one
   */
  async addWhole(
    history: History,
    sounds: readonly SoundFile[],
    as?: Pick<SongInfo, 'id' | 'created' | 'changed'>,
  ): Promise<string> {
    const id = as?.id ?? crypto.randomUUID();
    const { infos, snapshots, files } = this.database;
    const kept = sounds.map(({ file, name, bytes }): KeptFile => {
      return { song: id, file, name, size: bytes.byteLength, bytes: bufferOf(bytes) };
    });
    const info = await infoOf(id, history.song, as);
    await this.database.transaction('rw', infos, snapshots, files, async () => {
      // What is there is never replaced by what comes in.
      if (as && (await infos.get(id))) throw new SongsError('This song is there already.');
      await files.bulkPut(kept);
      await infos.put(info);
      await snapshots.put(snapshotOf(id, history, 0));
    });
    return id;
  }

  /**
   * Keeps a song under an id, as it is: a new one, or one that was deleted while it was open.
   * @param files sound files of another song that it plays too: all comes with them, or nothing does
   */
  async put(
    id: string,
    { history, n }: KeptSong,
    { packed, files = [] }: { packed?: unknown; files?: readonly KeptFile[] } = {},
  ): Promise<void> {
    const { infos, snapshots } = this.database;
    const info = await infoOf(id, history.song);
    await this.database.transaction('rw', infos, snapshots, this.files, async () => {
      await this.files.bulkPut(files.map((f) => ({ ...f, song: id })));
      await infos.put(info);
      await snapshots.put(snapshotOf(id, history, n, packed));
    });
  }

  /**
   * Opens a song with its history. Undefined where there is none.
   * @param mine whether this tab writes it
   * @throws SongFormatError
   */
  async open(id: string, mine: boolean): Promise<KeptSong | undefined> {
    const { added } = this;
    this.added = null;
    if (added?.id === id && (await this.journal.last(id)) === 0) return added.kept;
    return this.journal.open(id, mine);
  }

  /** Emits the number of a song's last step, now and whenever it changes, in other tabs too; undefined once it is gone. */
  lastStep$(id: string): ReturnType<typeof liveQuery<number | undefined>> {
    return liveQuery(() => this.journal.last(id));
  }

  /** What is kept of a song just as it is, for saving what cannot be read. */
  async record(id: string): Promise<unknown> {
    const { snapshots, entries, damaged } = this.database;
    return unpack({
      snapshot: await snapshots.get(id),
      entries: await entries.where('song').equals(id).sortBy('n'),
      damaged: await damaged.where('song').equals(id).toArray(),
    });
  }

  /** Tells the list how a song is now: after it was changed or first opened. */
  async describe(id: string, song: Song): Promise<void> {
    await this.database.infos.update(id, await factsAbout(song));
  }

  /** Renames a song that is not open elsewhere. @throws SongsError */
  async rename(id: string, name: string): Promise<void> {
    const lock = new WriterLock(id);
    if (!(await lock.take())) throw new SongsError('This song is open in another tab. Rename it there.');
    try {
      const { history, n } = await this.need(id, true);
      const edit = { kind: 'song-name', name: 'Rename the song', to: name } as const;
      const after = doEdit(history, edit);
      if (isProblem(after)) throw new SongsError(after.problem);
      await this.journal.append(id, [{ n: n + 1, act: 'do', edit }]);
      await this.journal.tellList(id, name);
    } finally {
      lock.release();
    }
  }

  /** Keeps a copy of a song. @throws SongsError */
  async duplicate(id: string): Promise<void> {
    const { history } = await this.need(id, false);
    await this.copy(id, history.song);
  }

  /** Keeps a song as it is as one of its own, and gives its id. */
  copy(id: string, song: Song): Promise<string> {
    return this.add({ ...song, name: longerTitle(song.name, ' (copy)') }, { like: id });
  }

  /** Deletes a song and gives back all of it, so that {@link restore} can take that back. */
  async remove(id: string): Promise<StoredSong | undefined> {
    const { infos, snapshots, entries, journal, damaged, files } = this.database;
    return this.database.transaction('rw', [infos, snapshots, entries, journal, damaged, files], async () => {
      const info = await infos.get(id);
      const snapshot = await snapshots.get(id);
      if (!info || !snapshot) return undefined;
      const all = {
        info,
        snapshot,
        entries: await entries.where('song').equals(id).toArray(),
        old: await journal.where('song').equals(id).toArray(),
        damaged: await damaged.where('song').equals(id).toArray(),
        files: await files.where('song').equals(id).toArray(),
      };
      await Promise.all([infos.delete(id), snapshots.delete(id)]);
      for (const table of [entries, journal, damaged, files]) await table.where('song').equals(id).delete();
      return all;
    });
  }

  async restore(song: StoredSong): Promise<void> {
    const { infos, snapshots, entries, journal, damaged, files } = this.database;
    await this.database.transaction('rw', [infos, snapshots, entries, journal, damaged, files], async () => {
      await infos.put(song.info);
      await snapshots.put(song.snapshot);
      await entries.bulkPut([...song.entries]);
      await journal.bulkPut([...song.old]);
      await damaged.bulkPut([...song.damaged]);
      await files.bulkPut([...song.files]);
    });
  }

  private async need(id: string, mine: boolean): Promise<KeptSong> {
    const kept = await this.open(id, mine);
    if (!kept) throw new SongsError('This song is gone. It may have been deleted in another tab.');
    return kept;
  }
}

/** The bytes alone, without what else their buffer holds. */
function bufferOf(bytes: Uint8Array): ArrayBuffer {
  const { buffer, byteLength } = bytes;
  return (buffer.byteLength === byteLength ? buffer : bytes.slice().buffer) as ArrayBuffer;
}

/** What the list of songs shows of one. @param as dates that it had; without them it is new */
async function infoOf(id: string, song: Song, as?: Pick<SongInfo, 'created' | 'changed'>): Promise<SongInfo> {
  const now = new Date().toISOString();
  return { id, created: as?.created ?? now, changed: as?.changed ?? now, ...(await factsAbout(song)) };
}

/** Of very many notes it is found in turns with the page. */
async function factsAbout(song: Song): Promise<Omit<SongInfo, 'id' | 'created' | 'changed'>> {
  return {
    name: song.name,
    tracks: song.tracks.filter((t) => noteCount(t) > 0).length,
    notes: song.tracks.reduce((sum, t) => sum + noteCount(t), 0),
    glance: (await inTurns(glancePieces(song))) ?? [],
    seconds: Math.round(tempoOf(song).toMs(songEnd(song, lastEndOf)) / 1000),
  };
}
