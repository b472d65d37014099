import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { note, song } from '../../core/test/build';
import { Said } from '../src/common/said';
import { AudioImport, type Heard } from '../src/desk/listening/audio-import';
import { AudioFiles } from '../src/sound/audio-files';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { StorageRoom } from '../src/storage/room';
import { provideDeskStore } from './store';

describe('a sound file that comes into a song', () => {
  const base = song([note(0, 0)]);
  const sound = { left: new Float32Array(1), right: new Float32Array(1), rate: 48_000 };
  const opened = { id: 'f'.repeat(64), name: 'loop.wav', bytes: new ArrayBuffer(1), sound, peaks: {} as never };
  const hits = [{ ms: 0, strength: 0.5 }];
  const heard: Heard = { opened, name: 'loop', ms: 2000, hits, bar: 1, bars: 1, fitting: 'own' };
  let lack: string | null;
  let kept: () => void;
  let audio: AudioImport;
  let store: Store;
  const tracks = () => store.selectSignal(deskFeature.selectSong)()?.tracks.length;

  beforeEach(() => {
    lack = null;
    const files = { keep: () => new Promise<boolean>((done) => (kept = () => done(true))) };
    TestBed.configureTestingModule({
      providers: [
        provideDeskStore(),
        AudioImport,
        { provide: AudioFiles, useValue: files },
        { provide: StorageRoom, useValue: { lack: () => Promise.resolve(lack) } },
      ],
    });
    store = TestBed.inject(Store);
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(base) }));
    audio = TestBed.inject(AudioImport);
    audio.heard.set(heard);
  });
  const turns = () => new Promise((done) => setTimeout(done));

  it('comes once, however often it is pressed', async () => {
    const adding = [audio.add(), audio.add()];
    await turns();
    kept();
    await Promise.all(adding);
    expect(tracks()).toBe(2);
  });

  it('comes into no other song that was opened meanwhile', async () => {
    const adding = audio.add();
    await turns();
    store.dispatch(DeskActions.opened({ songId: 'y', history: startHistory(base) }));
    kept();
    await adding;
    expect(tracks()).toBe(1);
  });

  it('waits where there is no room for it, which is said', async () => {
    lack = 'It needs 3 MB.';
    await audio.add();
    expect(audio.heard()).toBe(heard);
    expect(TestBed.inject(Said).text()).toBe('The sound file was not added. It needs 3 MB.');
  });
});
