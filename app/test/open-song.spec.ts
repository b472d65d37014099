import { TestBed } from '@angular/core/testing';
import { provideEffects } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { firstValueFrom } from 'rxjs';
import { Said } from '../src/common/said';
import { DeskActions, deskFeature, type DeskState } from '../src/state/desk.feature';
import { KeepingEffects } from '../src/state/keeping.effects';
import { unwrittenGuard } from '../src/state/unwritten.guard';
import type { Database, Snapshot } from '../src/storage/database';
import { FileStore } from '../src/storage/file-store';
import type { Journal } from '../src/storage/journal';
import { SongStore } from '../src/storage/song-store';
import { WriterLock } from '../src/storage/writer-lock';
import { base, does, freshStore, rename, until } from './kept';
import { provideDeskStore } from './store';
import { SharedLocks } from './tabs';

let database: Database;
let journal: Journal;
let songs: SongStore;

beforeEach(() => ({ database, journal, songs } = freshStore()));
afterEach(() => database.delete());

describe('the open song', () => {
  let store: Store;
  const state = () => firstValueFrom(store.select(deskFeature.selectDeskState));
  const open = async (songId: string): Promise<DeskState> => {
    store.dispatch(DeskActions.open({ songId }));
    await until(async () => (await state()).history !== null || (await state()).problem !== null);
    return state();
  };
  const saved = () => until(async () => (await state()).writing.unsaved === 0);
  const locks = new SharedLocks();

  beforeEach(() => {
    Object.defineProperty(navigator, 'locks', { configurable: true, value: locks.manager });
    TestBed.configureTestingModule({
      providers: [provideDeskStore(), provideEffects(KeepingEffects), { provide: SongStore, useValue: songs }],
    });
    store = TestBed.inject(Store);
  });
  afterEach(async () => {
    store.dispatch(DeskActions.close());
    await new Promise((done) => setTimeout(done, 30));
    Object.defineProperty(navigator, 'locks', { configurable: true, value: undefined });
  });

  it('is kept step by step, undo too, and comes back after a reload', async () => {
    const id = await songs.add(base);
    await open(id);
    for (const to of ['a', 'b']) store.dispatch(DeskActions.edit({ edit: rename(to) }));
    store.dispatch(DeskActions.undo());
    await saved();
    const before = (await state()).history;
    // Where the user was at each step is forgotten with the session.
    const steps = before!.undo.map(({ edit }) => ({ edit }));
    const undone = before!.redo.map(({ edit }) => ({ edit }));
    expect((await open(id)).history).toEqual({ ...before, undo: steps, redo: undone });
    expect(before?.undo.map((s) => s.edit.name)).toEqual(['Call it a']);
  });

  it('is left for another with everything written, and nothing goes to the wrong one', async () => {
    const [one, two] = [await songs.add(base), await songs.add({ ...base, name: 'Two' })];
    await open(one);
    store.dispatch(DeskActions.edit({ edit: rename('changed') }));
    store.dispatch(DeskActions.open({ songId: two }));
    await until(async () => (await state()).songId === two);
    store.dispatch(DeskActions.edit({ edit: rename('Two, changed') }));
    await saved();
    expect([
      (await songs.open(one, true))?.history.song.name,
      (await songs.open(two, true))?.history.song.name,
    ]).toEqual(['changed', 'Two, changed']);
  });

  it('that is not there, or cannot be read, is told in a sentence', async () => {
    expect((await open('nothing')).problem).toMatch(/not in this browser/);
    await database.snapshots.put({ id: 'newer', song: { version: 9 }, n: 0 } satisfies Snapshot);
    expect((await open('newer')).problem).toMatch(/newer than this program.*Nothing of it was changed/);
  });

  it('tells of damaged steps', async () => {
    const id = await songs.add(base);
    await journal.append(id, [{ n: 1, act: 'do', edit: { kind: 'melt' } as never }]);
    expect((await open(id)).damage).toMatch(/The last step could not be read/);
  });

  it('refuses an edit that does not fit with a word, and changes nothing', async () => {
    const id = await songs.add(base);
    const { history } = await open(id);
    store.dispatch(DeskActions.edit({ edit: { kind: 'part-on', name: 'x', part: 'none', on: true } }));
    expect((await state()).history).toBe(history);
    expect(TestBed.inject(Said).text()).toMatch(/no part/);
    expect((await songs.open(id, true))?.n).toBe(0);
  });

  it('is read while another tab writes it, follows that, and can be taken over', async () => {
    const id = await songs.add(base);
    const other = new WriterLock(id, locks.manager);
    await other.take();
    expect((await open(id)).role).toBe('reader');
    store.dispatch(DeskActions.edit({ edit: rename('mine') }));
    expect((await state()).history?.song.name).toBe('Test');
    expect(TestBed.inject(Said).text()).toMatch(/edited in another tab/);
    await journal.append(id, [{ n: 1, ...does('theirs') }]);
    await journal.tellList(id, 'theirs');
    await until(async () => (await state()).history?.song.name === 'theirs');
    await journal.append(id, [{ n: 2, ...does('theirs too') }]);
    await journal.tellList(id, 'theirs');
    await until(async () => (await state()).history?.undo.length === 2);
    other.release();
    store.dispatch(DeskActions.takeOver());
    await until(async () => (await state()).role === 'writer');
    store.dispatch(DeskActions.edit({ edit: rename('mine now') }));
    await saved();
    expect((await songs.open(id, true))?.history.undo).toHaveLength(3);
  });

  it('is not left without a word while steps of it are not written', async () => {
    const leave = () =>
      TestBed.runInInjectionContext(() => unwrittenGuard(null, null as never, null as never, null as never));
    const ask = jest.spyOn(globalThis, 'confirm').mockReturnValue(false);
    await open(await songs.add(base));
    expect(leave()).toBe(true);
    store.dispatch(DeskActions.writing({ state: { unsaved: 2, trouble: 'failed' } }));
    expect(leave()).toBe(false);
    ask.mockReturnValue(true);
    expect(leave()).toBe(true);
    expect(ask).toHaveBeenCalledTimes(2);
    store.dispatch(DeskActions.writing({ state: { unsaved: 0, trouble: null } }));
  });

  it('damaged, is mended by its writer alone: a tab that reads sets nothing aside', async () => {
    const id = await songs.add(base);
    await journal.append(id, [{ n: 1, act: 'do', edit: { kind: 'melt' } as never }]);
    const other = new WriterLock(id, locks.manager);
    await other.take();
    expect((await open(id)).damage).toMatch(/could not be read/);
    expect(await database.damaged.count()).toBe(0);
    expect(await database.entries.count()).toBe(1);
    other.release();
  });

  it('that is read here and deleted elsewhere is told to be, survives taking it over, and can be kept again', async () => {
    const id = await songs.add(base);
    const other = new WriterLock(id, locks.manager);
    await other.take();
    expect((await open(id)).role).toBe('reader');
    await songs.remove(id);
    await until(async () => (await state()).writing.trouble === 'gone');
    other.release();
    store.dispatch(DeskActions.takeOver());
    await until(async () => (await state()).role === 'writer');
    expect((await state()).history?.song.name).toBe('Test');
    store.dispatch(DeskActions.edit({ edit: rename('kept') }));
    await until(async () => (await state()).writing.unsaved === 1);
    store.dispatch(DeskActions.keepAgain());
    await until(async () => (await state()).writing.trouble === null);
    await saved();
    expect((await songs.open(id, true))?.history.song.name).toBe('kept');
  });

  it('follows steps that come quickly one after the other', async () => {
    const id = await songs.add(base);
    const other = new WriterLock(id, locks.manager);
    await other.take();
    await open(id);
    const since = journal.since.bind(journal);
    // Reading the first step takes until the second was told of.
    jest.spyOn(journal, 'since').mockImplementationOnce(async (...of) => {
      const steps = await since(...of);
      await new Promise((done) => setTimeout(done, 60));
      return steps;
    });
    await journal.append(id, [{ n: 1, ...does('one') }]);
    await journal.tellList(id, 'one');
    await new Promise((done) => setTimeout(done, 20));
    await journal.append(id, [{ n: 2, ...does('two') }]);
    await journal.tellList(id, 'two');
    await until(async () => (await state()).history?.song.name === 'two');
    expect((await state()).history?.undo).toHaveLength(2);
    other.release();
  });

  it('brings its sound files along where it is kept again or as a copy', async () => {
    const id = await songs.add(base);
    const files = TestBed.inject(FileStore);
    const file = 'a'.repeat(64);
    await files.keep({ song: id, file, name: 'Loop', bytes: Uint8Array.of(1, 2, 3).buffer });
    await open(id);
    await songs.remove(id);
    store.dispatch(DeskActions.edit({ edit: rename('still here') }));
    await until(async () => (await state()).writing.trouble === 'gone');
    store.dispatch(DeskActions.keepCopy());
    await until(async () => (await database.files.count()) === 1);
    store.dispatch(DeskActions.keepAgain());
    await until(async () => (await state()).writing.trouble === null);
    expect(await database.files.get([id, file])).toBeDefined();
  });

  it('tells the list of songs how it is now', async () => {
    const id = await songs.add(base);
    await open(id);
    store.dispatch(DeskActions.edit({ edit: { kind: 'notes', name: 'x', part: 'p', remove: [1], add: [] } }));
    await until(async () => (await database.infos.get(id))?.notes === 1);
  });

  it('deleted in another tab is told to be, and is kept again on a press', async () => {
    const id = await songs.add(base);
    await open(id);
    await songs.remove(id);
    store.dispatch(DeskActions.edit({ edit: rename('still here') }));
    await until(async () => (await state()).writing.trouble === 'gone');
    store.dispatch(DeskActions.keepAgain());
    await until(async () => (await state()).writing.trouble === null);
    expect((await songs.open(id, true))?.history.song.name).toBe('still here');
  });
});
