import { TestBed } from '@angular/core/testing';
import { Notices } from '../src/common/notices';
import { Router } from '@angular/router';
import { note, song } from '../../core/test/build';
import { readDropped } from '../src/songs/dropped';
import { Importer } from '../src/songs/importer';
import { SongStore } from '../src/storage/song-store';
import type { ImportAnswer } from '../src/workers/import-api';

const TAKE = new TextEncoder().encode('MThd and so on');

/** In place of the worker, which there is none of here: it takes what begins as a MIDI file does, or breaks. */
let broken = false;
jest.mock('../src/workers/worker-link', () => ({
  WorkerLink: class {
    end = () => undefined;
    ask = async (question: (api: unknown) => Promise<ImportAnswer>): Promise<ImportAnswer> =>
      question({
        read: async (bytes: Uint8Array): Promise<ImportAnswer> => {
          if (broken) throw new Error('out of memory');
          if (bytes[0] !== 'M'.charCodeAt(0)) return { ok: false, code: 'not-midi', detail: 'This is no MIDI file.' };
          return { ok: true, song: song([note(0, 0)]), notices: [] };
        },
      });
  },
}));

describe('importing', () => {
  const said: string[] = [];
  const went: unknown[] = [];
  let importer: Importer;

  beforeEach(() => {
    said.length = went.length = 0;
    broken = false;
    TestBed.configureTestingModule({
      providers: [
        { provide: Notices, useValue: { open: async (text: string) => said.push(text) } },
        { provide: Router, useValue: { navigate: async (to: unknown) => went.push(to) } },
      ],
    });
    importer = TestBed.inject(Importer);
  });

  const file = (name: string, bytes: Uint8Array = TAKE): File => {
    const made = new File([new Uint8Array(bytes)], name);
    // jsdom's files cannot be read in parts.
    made.slice = () => ({ arrayBuffer: async () => new Uint8Array(bytes).buffer }) as Blob;
    return made;
  };

  it('of several files goes to the last, and tells of all in one message', async () => {
    await importer.files([file('one.mid'), file('two.mid', new Uint8Array([1, 2, 3])), file('three.mid')]);
    expect(went).toHaveLength(1);
    expect(said).toHaveLength(1);
    expect(said[0].split('\n')).toEqual([
      '2 of 3 were opened.',
      expect.stringMatching(/^“two.mid” was not opened\. .*ends in \.mid/),
    ]);
  });

  it('of one good file says nothing', async () => {
    await importer.files([file('one.mid')]);
    expect([went.length, said.length]).toEqual([1, 0]);
  });

  it('tells whose fault it was: the file’s, the browser’s, or ours', async () => {
    const gone = file('gone.mid');
    gone.slice = () => ({ arrayBuffer: () => Promise.reject(new Error('NotReadableError')) }) as unknown as Blob;
    await importer.files([gone]);
    expect(said.pop()).toMatch(/could not be read: it may have been moved, or it is a folder/);
    jest.spyOn(TestBed.inject(SongStore), 'add').mockRejectedValueOnce(new DOMException('full', 'QuotaExceededError'));
    await importer.files([file('full.mid')]);
    expect(said.pop()).toMatch(/browser refused to save it/);
    broken = true;
    await importer.files([file('ours.mid')]);
    expect(said.pop()).toMatch(/The program failed while reading it/);
    expect(went).toEqual([]);
    expect(importer.busy()).toBeNull();
  });

  it('reads a dropped folder, and says where there is nothing in it, and what of it cannot be read', async () => {
    const leaf = (name: string) => ({ name, isDirectory: false, file: (done: (f: File) => void) => done(file(name)) });
    const gone = (name: string) => ({ name, isDirectory: false, file: (_: unknown, fail: () => void) => fail() });
    const folder = (name: string, entries: unknown[]) => ({
      name,
      isDirectory: true,
      createReader: () => {
        const batches = [entries, []];
        return { readEntries: (done: (e: unknown) => void) => done(batches.shift()) };
      },
    });
    const entries = [
      folder('takes', [leaf('b.mid'), folder('inner', [leaf('a.MIDI'), leaf('notes.txt')])]),
      folder('photos', [leaf('pier.jpg')]),
      folder('locked', []),
      folder('disk', [gone('gone.mid'), leaf('c.mid')]),
    ];
    // The system does not let it be read.
    Object.assign(entries[2], { createReader: () => ({ readEntries: (_: unknown, fail: () => void) => fail() }) });
    const transfer = {
      items: entries.map((entry) => ({ kind: 'file', webkitGetAsEntry: () => entry })),
      files: [],
    } as unknown as DataTransfer;
    const dropped = await readDropped(transfer);
    expect(dropped.files.map((f) => f.name)).toEqual(['b.mid', 'a.MIDI', 'c.mid']);
    expect(dropped.emptyFolders).toEqual(['photos']);
    await importer.open(dropped);
    expect(said[0]).toContain('3 of 6 were opened.');
    expect(said[0]).toContain('“photos” is a folder without MIDI or song files');
    for (const name of ['locked', 'gone.mid']) expect(said[0]).toContain(`“${name}” could not be read`);
  });
});
