import { TestBed } from '@angular/core/testing';
import { provideEffects } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { startHistory, type Edit } from '@early-sparrow/core/edit';
import type { Song } from '@early-sparrow/core/song';
import { firstValueFrom, from } from 'rxjs';
import { song, note, treatment } from '../../core/test/build';
import { SongStore } from '../src/storage/song-store';
import { AutosaveEffects } from '../src/state/autosave.effects';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
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

  it('come back with every step, and undo goes on where it was', async () => {
    const id = await songs.add(base);
    await songs.append(id, { type: 'do', edit: quantize }, base);
    await songs.append(id, { type: 'do', edit: { kind: 'song-name', name: 'Rename', to: 'Later' } }, base);
    await songs.append(id, { type: 'undo' }, base);
    const history = await songs.open(id);
    expect(history?.song.name).toBe('Test');
    expect(history?.song.tracks[0].parts[0].treatment.quantize.on).toBe(true);
    expect(history?.undo).toHaveLength(1);
    expect(history?.redo).toHaveLength(1);
  });

  it('are deleted and brought back whole', async () => {
    const id = await songs.add(base);
    await songs.append(id, { type: 'do', edit: quantize }, base);
    const removed = await songs.remove(id);
    expect(await songs.open(id)).toBeUndefined();
    if (removed) await songs.restore(removed);
    expect((await songs.open(id))?.undo).toHaveLength(1);
  });
});

describe('the desk’s state', () => {
  let store: Store;
  beforeEach(() => {
    TestBed.configureTestingModule({
      providers: [provideDeskStore(), provideEffects(AutosaveEffects)],
    });
    store = TestBed.inject(Store);
  });
  const quantizeOf = (s: Song | null) => s?.tracks[0].parts[0].treatment.quantize.on;
  const isOn = async () => quantizeOf(await firstValueFrom(store.select(deskFeature.selectSong)));
  const isShown = async () => quantizeOf(await firstValueFrom(store.select(deskFeature.selectShownSong)));

  it('shows what is tried without doing it, and writes what is done into the journal', async () => {
    const id = await TestBed.inject(SongStore).add(base);
    store.dispatch(DeskActions.opened({ songId: id, history: startHistory(base) }));
    store.dispatch(DeskActions.preview({ edit: quantize }));
    expect([await isOn(), await isShown()]).toEqual([false, true]);
    store.dispatch(DeskActions.preview({ edit: null }));
    expect([await isOn(), await isShown()]).toEqual([false, false]);
    store.dispatch(DeskActions.edit({ edit: quantize }));
    expect([await isOn(), await isShown()]).toEqual([true, true]);
    for (let i = 0; i < 50 && (await firstValueFrom(store.select(deskFeature.selectUnsaved))) > 0; i++) {
      await new Promise((done) => setTimeout(done, 10));
    }
    expect((await TestBed.inject(SongStore).open(id))?.undo).toHaveLength(1);
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
    const late = song(
      Array.from({ length: 16 }, (_, i) => note(i, i * 240 + 40)),
      {},
    );
    const id = await songs.add(late);
    const info = async () => (await firstValueFrom(from(songs.list$))).find((s) => s.id === id);
    expect((await info())?.glance).toMatchObject([{ name: 'Track', leanMs: expect.closeTo(20.8, 1) }]);
    expect((await info())?.glance?.[0].density).toMatch(/^[1-9]{56}$|^[0-9]{56}$/);
    await songs.describe(id, song(late.tracks[0].parts[0].notes, { quantize: { on: true } }));
    expect((await info())?.glance?.[0].leanMs).toBe(0);
  });
});
