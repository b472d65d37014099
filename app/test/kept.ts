import { doEdit, startHistory, type Deed, type Edit, type History } from '@early-sparrow/core/edit';
import { note, song } from '../../core/test/build';
import { Database } from '../src/storage/database';
import { Journal } from '../src/storage/journal';
import { SongStore } from '../src/storage/song-store';

export const base = song([note(0, 250), note(1, 500)]);
export const rename = (to: string): Edit => ({ kind: 'song-name', name: `Call it ${to}`, to });
export const does = (to: string): Deed => ({ act: 'do', edit: rename(to) });

/** The song, renamed step by step, and its history. */
export function after(...names: string[]): History {
  return names.reduce((h, to) => doEdit(h, rename(to)) as History, startHistory(base));
}

export async function until(test: () => boolean | Promise<boolean>): Promise<void> {
  for (let i = 0; i < 300; i++) {
    if (await test()) return;
    await new Promise((done) => setTimeout(done, 10));
  }
  throw new Error('It did not come to that.');
}

let opened = 0;

/** A store of songs in a database of its own. */
export function freshStore(): { readonly database: Database; readonly journal: Journal; readonly songs: SongStore } {
  const database = new Database(`test-${opened++}`);
  class TestStore extends SongStore {
    protected override readonly database = database;
    override readonly journal = new Journal(database);
  }
  const songs = new TestStore();
  return { database, journal: songs.journal, songs };
}
