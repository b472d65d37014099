import { TestBed } from '@angular/core/testing';
import { provideEffects } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { startHistory, type Edit } from '@early-sparrow/core/edit';
import { firstValueFrom } from 'rxjs';
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
  const strengthNow = async () =>
    (await firstValueFrom(store.select(deskFeature.selectSong)))?.tracks[0].parts[0].treatment.quantize.on;

  it('shows what is tried without doing it, and writes what is done into the journal', async () => {
    const id = await TestBed.inject(SongStore).add(base);
    store.dispatch(DeskActions.opened({ songId: id, history: startHistory(base) }));
    store.dispatch(DeskActions.preview({ edit: quantize }));
    expect(await strengthNow()).toBe(true);
    store.dispatch(DeskActions.preview({ edit: null }));
    expect(await strengthNow()).toBe(false);
    store.dispatch(DeskActions.edit({ edit: quantize }));
    expect(await strengthNow()).toBe(true);
    for (let i = 0; i < 50 && (await firstValueFrom(store.select(deskFeature.selectUnsaved))) > 0; i++) {
      await new Promise((done) => setTimeout(done, 10));
    }
    expect((await TestBed.inject(SongStore).open(id))?.undo).toHaveLength(1);
  });
});
