import { Injectable } from '@angular/core';
import { liveQuery } from 'dexie';
import { EditSchema, perform, redo, startHistory, undo, type History } from '@early-sparrow/core/edit';
import { noteCount, readSong, songEnd, tempoOf, type Song } from '@early-sparrow/core/song';
import { glanceOf } from './glance';
import { Database, type SongInfo, type Snapshot, type JournalEntry, type Step } from './database';

/** A song with all that belongs to it, for taking a deletion back. */
export interface StoredSong {
  readonly info: SongInfo;
  readonly snapshot: Snapshot;
  readonly journal: readonly JournalEntry[];
}

/** Steps in a journal beyond which a song is written anew when it is opened. */
const LONG_JOURNAL = 2000;

/** Songs kept in this browser: a snapshot each and a journal of everything done since. */
@Injectable({ providedIn: 'root' })
export class SongStore {
  protected readonly database: Database = new Database();

  /** The list of songs, the last changed first; emits again at every change. */
  readonly list$ = liveQuery(() => this.database.infos.orderBy('changed').reverse().toArray());

  /** The saved recipes' table, in the same database. */
  get recipes(): Database['recipes'] {
    return this.database.recipes;
  }

  count(): Promise<number> {
    return this.database.infos.count();
  }

  /** Keeps a new song and gives its id. */
  async add(song: Song): Promise<string> {
    const id = crypto.randomUUID();
    const now = new Date().toISOString();
    await this.database.transaction('rw', this.database.infos, this.database.snapshots, async () => {
      await this.database.infos.add(describe(id, song, now, now));
      await this.database.snapshots.add({ id, song });
    });
    return id;
  }

  /**
   * Opens a song with its history: the snapshot and every step since. Undefined where there is none.
   * @throws SongFormatError where what is kept cannot be read
   */
  async open(id: string): Promise<History | undefined> {
    const snapshot = await this.database.snapshots.get(id);
    if (!snapshot) return undefined;
    const entries = await this.database.journal.where('song').equals(id).sortBy('seq');
    const history = entries.reduce((h, e) => replay(h, e.step), startHistory(readSong(snapshot.song)));
    if (entries.length > LONG_JOURNAL) await this.rewrite(id, history.song);
    return history;
  }

  /** Writes a step behind the others. */
  async append(id: string, step: Step, song: Song): Promise<void> {
    await this.database.transaction('rw', this.database.infos, this.database.journal, async () => {
      await this.database.journal.add({ song: id, step });
      await this.database.infos.update(id, { name: song.name, changed: new Date().toISOString() });
    });
  }

  /** Tells the list how a song is now: after it was changed or first opened. */
  async describe(id: string, song: Song): Promise<void> {
    await this.database.infos.update(id, { glance: glanceOf(song) });
  }

  async rename(id: string, name: string): Promise<void> {
    const history = await this.open(id);
    if (!history) return;
    const edit = { kind: 'song-name', name: 'Rename the song', to: name } as const;
    await this.append(id, { type: 'do', edit }, perform(history, edit).song);
  }

  async duplicate(id: string): Promise<void> {
    const history = await this.open(id);
    if (history) await this.add({ ...history.song, name: `${history.song.name} (copy)`.slice(0, 200) });
  }

  /** Deletes a song and gives back all of it, so that {@link restore} can take that back. */
  async remove(id: string): Promise<StoredSong | undefined> {
    const { infos, snapshots, journal } = this.database;
    return this.database.transaction('rw', infos, snapshots, journal, async () => {
      const info = await infos.get(id);
      const snapshot = await snapshots.get(id);
      if (!info || !snapshot) return undefined;
      const entries = await journal.where('song').equals(id).sortBy('seq');
      await infos.delete(id);
      await snapshots.delete(id);
      await journal.where('song').equals(id).delete();
      return { info, snapshot, journal: entries };
    });
  }

  async restore(song: StoredSong): Promise<void> {
    const { infos, snapshots, journal } = this.database;
    await this.database.transaction('rw', infos, snapshots, journal, async () => {
      await infos.put(song.info);
      await snapshots.put(song.snapshot);
      await journal.bulkPut([...song.journal]);
    });
  }

  private async rewrite(id: string, song: Song): Promise<void> {
    const { snapshots, journal } = this.database;
    await this.database.transaction('rw', snapshots, journal, async () => {
      await snapshots.put({ id, song });
      await journal.where('song').equals(id).delete();
    });
  }
}

/** A step that no longer fits its song is passed over rather than losing the song. */
function replay(history: History, step: Step): History {
  if (step.type === 'undo') return undo(history);
  if (step.type === 'redo') return redo(history);
  const edit = EditSchema.safeParse(step.edit);
  return edit.success ? perform(history, edit.data) : history;
}

function describe(id: string, song: Song, created: string, changed: string): SongInfo {
  return {
    id,
    name: song.name,
    created,
    changed,
    tracks: song.tracks.filter((t) => noteCount(t) > 0).length,
    notes: song.tracks.reduce((sum, t) => sum + noteCount(t), 0),
    glance: glanceOf(song),
    seconds: Math.round(tempoOf(song).toMs(songEnd(song)) / 1000),
  };
}
