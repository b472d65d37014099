import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import type { Peaks } from '@early-sparrow/core/audio';
import type { PartAudio, Song } from '@early-sparrow/core/song';
import type { SoundFile } from '@early-sparrow/core/sound';
import { note, part, song } from '../../core/test/build';
import { AudioFiles } from '../src/sound/audio-files';
import { decode } from '../src/sound/decode';
import type { SoundDevice } from '../src/sound/sound-device';
import { DeskActions } from '../src/state/desk.feature';
import { FileStore, idOf } from '../src/storage/file-store';
import { provideDeskStore } from './store';

jest.mock('../src/sound/decode', () => ({ ...jest.requireActual<object>('../src/sound/decode'), decode: jest.fn() }));
jest.mock('../src/workers/worker-link', () => ({
  WorkerLink: class {
    ask = (question: (api: unknown) => unknown) => question({ peaks: () => Promise.resolve(PEAKS) });
  },
}));

const PEAKS = { drawn: true } as unknown as Peaks;
const BYTES = Uint8Array.of(1, 2, 3).buffer;
const SOUND: SoundFile = { left: Float32Array.of(0.5), right: Float32Array.of(0.5), rate: 48_000 };

/** A song that plays a file along, or none. */
function playing(file: string | null): Song {
  const s = song([note(0, 0)]);
  if (file === null) return s;
  const anchors = [
    { tick: 0, ms: 0 },
    { tick: 960, ms: 500 },
  ];
  const audio: PartAudio = { file, name: 'Loop', ms: 500, anchors, heard: 'file' };
  return { ...s, tracks: s.tracks.map((t) => ({ ...t, parts: [{ ...part(s), audio }] })) };
}

describe('the sound files of a song', () => {
  let kept: Map<string, ArrayBuffer>;
  let said: { say: string; id?: string; file?: unknown }[];
  let files: AudioFiles;
  let full: boolean;
  const device = { say: (message: { say: string }) => said.push(message) } as unknown as SoundDevice;
  const open = (s: Song) =>
    TestBed.inject(Store).dispatch(DeskActions.opened({ songId: 'x', history: startHistory(s) }));
  const settled = async () => {
    for (let i = 0; i < 5; i++) {
      TestBed.tick();
      await new Promise((next) => setTimeout(next));
    }
  };

  beforeEach(() => {
    [kept, said, full] = [new Map(), [], false];
    jest.mocked(decode).mockReset().mockResolvedValue(SOUND);
    const store = {
      read: (_song: string, file: string) => Promise.resolve(kept.get(file)),
      keep: ({ file, bytes }: { file: string; bytes: ArrayBuffer }) => {
        if (full) return Promise.reject(new Error('There is no room.'));
        kept.set(file, bytes);
        return Promise.resolve();
      },
    };
    TestBed.configureTestingModule({ providers: [provideDeskStore(), { provide: FileStore, useValue: store }] });
    files = TestBed.inject(AudioFiles);
    files.use(device);
  });

  it('are fetched, drawn and brought to the engine, and let go with the part that played them', async () => {
    kept.set('loop', BYTES);
    open(playing('loop'));
    await settled();
    expect(files.peaks().get('loop')).toBe(PEAKS);
    expect(said).toEqual([{ say: 'file', id: 'loop', file: SOUND }]);
    open(playing(null));
    await settled();
    expect(said.at(-1)).toEqual({ say: 'file', id: 'loop', file: null });
    expect(files.peaks().size).toBe(0);
  });

  it('are told to be missing where the browser has them no more or cannot read them', async () => {
    open(playing('gone'));
    await settled();
    expect([...files.missing()]).toEqual(['gone']);
    kept.set('broken', BYTES);
    jest.mocked(decode).mockRejectedValueOnce(new Error('It is no sound.'));
    open(playing('broken'));
    await settled();
    expect(files.missing()).toContain('broken');
    expect(said).toEqual([]);
  });

  it('that are missing are brought back by hand, and no other file in their place', async () => {
    const id = await idOf(BYTES);
    open(playing(id));
    await settled();
    expect([...files.missing()]).toEqual([id]);
    const other = new File([Uint8Array.of(9)], 'other.wav');
    other.arrayBuffer = () => Promise.resolve(Uint8Array.of(9).buffer);
    expect(await files.bringBack(id, other)).toMatch(/^other\.wav is not the file that was imported\./);
    expect([...files.missing()]).toEqual([id]);
    const right = new File([BYTES], 'loop.wav');
    right.arrayBuffer = () => Promise.resolve(BYTES);
    expect(await files.bringBack(id, right)).toBeNull();
    await settled();
    expect(files.missing().size).toBe(0);
    expect(kept.get(id)).toBe(BYTES);
    expect(said).toEqual([{ say: 'file', id, file: SOUND }]);
  });

  it('last as long as the page where the browser has no room', async () => {
    full = true;
    open(playing('loop'));
    await settled();
    const opened = { id: 'loop', name: 'Loop', bytes: BYTES, sound: SOUND, peaks: PEAKS };
    expect(await files.keep(opened)).toBe(false);
    expect((await files.sounds(['loop', 'unknown'])).size).toBe(1);
    full = false;
    expect(await files.keep(opened)).toBe(true);
  });
});
