import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { soundFileEdit } from '@early-sparrow/core/audio';
import { doEdit, isProblem, startHistory, undo, type Edit } from '@early-sparrow/core/edit';
import type { Song } from '@early-sparrow/core/song';
import { firstValueFrom, from } from 'rxjs';
import { song, note, treatment } from '../../core/test/build';
import { FileStore, idOf } from '../src/storage/file-store';
import { SongStore } from '../src/storage/song-store';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { freshStore } from './kept';
import { provideDeskStore } from './store';

const base = song([note(0, 250), note(1, 500)]);
const quantize: Edit = {
  kind: 'treatment',
  name: 'Quantize',
  part: 'p',
  treatment: treatment({ quantize: { on: true } }),
};

describe('songs in the browser', () => {
  let songs: SongStore;
  beforeEach(() => (songs = TestBed.inject(SongStore)));
  const nameOf = async (id: string) => (await songs.open(id, true))?.history.song.name;

  it('are deleted and brought back whole', async () => {
    const id = await songs.add(base);
    await songs.journal.append(id, [{ n: 1, act: 'do', edit: quantize }]);
    const removed = await songs.remove(id);
    expect(await songs.open(id, true)).toBeUndefined();
    if (removed) await songs.restore(removed);
    expect((await songs.open(id, true))?.history.undo).toHaveLength(1);
  });

  it('are renamed as a step that undo takes back, and duplicated', async () => {
    const id = await songs.add(base);
    await songs.rename(id, 'Other');
    expect(await nameOf(id)).toBe('Other');
    expect((await songs.open(id, true))?.history.undo.map((s) => s.edit.name)).toEqual(['Rename the song']);
    await songs.duplicate(id);
    expect((await firstValueFrom(from(songs.list$))).some((s) => s.name === 'Other (copy)')).toBe(true);
  });

  it('take their sound files along: deleted, brought back and copied', async () => {
    const files = TestBed.inject(FileStore);
    const bytes = new Uint8Array([1, 2, 3]).buffer;
    const file = await idOf(bytes);
    // source: SHA-256 of the bytes 01 02 03, by `printf '\1\2\3' | sha256sum`
    expect(file).toBe('039058c6f2c0cb492c533b0a4d14ef77cc0f78abccced5287d84a1a2011cfb81');
    const has = async (id: string) => (await files.read(id, file))?.byteLength;
    const id = await songs.add(base);
    await files.keep({ song: id, file, name: 'loop.wav', bytes });
    expect(await has(id)).toBe(3);
    const before = new Set((await firstValueFrom(from(songs.list$))).map((s) => s.id));
    await songs.duplicate(id);
    const [copy] = (await firstValueFrom(from(songs.list$))).filter((s) => !before.has(s.id));
    const removed = await songs.remove(id);
    expect([await has(id), await has(copy.id)]).toEqual([undefined, 3]);
    if (removed) await songs.restore(removed);
    expect(await has(id)).toBe(3);
  });

  it('leave no sound files behind where a copy cannot be kept', async () => {
    const { songs, database } = freshStore();
    const id = await songs.add(base);
    await songs.files.put({ song: id, file: 'f', name: 'loop.wav', size: 3, bytes: new Uint8Array(3).buffer });
    const refuse = () => {
      throw new DOMException('full', 'QuotaExceededError');
    };
    database.snapshots.hook('creating', refuse);
    await expect(songs.duplicate(id)).rejects.toThrow();
    database.snapshots.hook('creating').unsubscribe(refuse);
    expect(await songs.files.toCollection().primaryKeys()).toEqual([[id, 'f']]);
    await songs.duplicate(id);
    expect(await songs.files.count()).toBe(2);
  });

  it('let sound files go that neither they nor their undo speak of', async () => {
    const files = TestBed.inject(FileStore);
    const [loop, other] = [1, 2].map((n) => new Uint8Array([n]).buffer);
    const [loopId, otherId] = [await idOf(loop), await idOf(other)];
    const id = await songs.add(base);
    await files.keep({ song: id, file: loopId, name: 'loop.wav', bytes: loop });
    await files.keep({ song: id, file: otherId, name: 'other.wav', bytes: other });
    const heard = { name: 'Loop', file: loopId, ms: 1000, hits: [] };
    const history = startHistory(base);
    const done = doEdit(history, soundFileEdit(base, heard, { bar: 1, bars: 1, fitting: 'own' }));
    if (isProblem(done)) throw new Error(done.problem);
    const has = async (file: string) => (await files.read(id, file)) !== undefined;
    await files.sweep(id, done);
    expect([await has(loopId), await has(otherId)]).toEqual([true, false]);
    // Undone it is still there for redo.
    await files.sweep(id, undo(done));
    expect(await has(loopId)).toBe(true);
    // What was set aside may be mended: what it names stays.
    await songs.damaged.add({ song: id, found: '', reason: '', entries: [{ file: 'b'.repeat(64) }] });
    await files.sweep(id, history);
    expect(await has(loopId)).toBe(false);
  });

  it('that are gone say so', async () => {
    await expect(songs.duplicate('none')).rejects.toThrow(/is gone/);
    await expect(songs.rename('none', 'x')).rejects.toThrow(/is gone/);
  });
});

describe('the desk’s state', () => {
  let store: Store;
  beforeEach(() => {
    TestBed.configureTestingModule({
      providers: [provideDeskStore()],
    });
    store = TestBed.inject(Store);
  });
  const quantizeOf = (s: Song | null) => s?.tracks[0].parts[0].treatment.quantize.on;
  const isOn = async () => quantizeOf(await firstValueFrom(store.select(deskFeature.selectSong)));
  const isShown = async () => quantizeOf(await firstValueFrom(store.select(deskFeature.selectShownSong)));

  it('shows what is tried without doing it', async () => {
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(base) }));
    store.dispatch(DeskActions.preview({ edit: quantize }));
    expect([await isOn(), await isShown()]).toEqual([false, true]);
    store.dispatch(DeskActions.preview({ edit: null }));
    expect([await isOn(), await isShown()]).toEqual([false, false]);
    store.dispatch(DeskActions.edit({ edit: quantize }));
    expect([await isOn(), await isShown()]).toEqual([true, true]);
  });

  it('shows what is tried only where it fits', async () => {
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(base) }));
    store.dispatch(DeskActions.preview({ edit: { kind: 'part-on', name: 'x', part: 'none', on: true } }));
    expect([await isOn(), await isShown()]).toEqual([false, false]);
  });

  it.each([
    ['undo', DeskActions.undo()],
    ['redo', DeskActions.redo()],
    ['another edit', DeskActions.edit({ edit: { kind: 'part-on', name: 'Off', part: 'p', on: true } })],
    ['another track', DeskActions.selectTrack({ trackId: 't' })],
    ['a further track', DeskActions.toggleTrack({ trackId: 'u' })],
    ['own settings', DeskActions.selectSet({ setId: null })],
  ])('what is tried ends with %s, and none of it is kept', async (_, action) => {
    store.dispatch(DeskActions.opened({ songId: 'none', history: startHistory(base) }));
    store.dispatch(DeskActions.preview({ edit: quantize }));
    store.dispatch(action);
    expect([await isOn(), await isShown()]).toEqual([false, false]);
  });
});

describe('the list of songs', () => {
  it('has each song at a glance: where its tracks play, and how they lean now', async () => {
    const songs = TestBed.inject(SongStore);
    const late = song(Array.from({ length: 16 }, (_, i) => note(i, i * 240 + 40)));
    const id = await songs.add(late);
    const info = async () => (await firstValueFrom(from(songs.list$))).find((s) => s.id === id);
    expect((await info())?.glance).toMatchObject([{ name: 'Track', leanMs: expect.closeTo(20.8, 1) }]);
    expect((await info())?.glance?.[0].density).toMatch(/^[1-9]{56}$|^[0-9]{56}$/);
    await songs.describe(id, song(late.tracks[0].parts[0].notes, { quantize: { on: true } }));
    expect((await info())?.glance?.[0].leanMs).toBe(0);
  });
});
