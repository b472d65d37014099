import { TestBed } from '@angular/core/testing';
import { recipeFor, type Row } from '../src/batch/batch';
import { reportCsv, reportJson } from '../src/batch/batch-report';
import { doubtRank, doubtWords, foundWords, movedWords } from '../src/batch/batch-words';
import { FileDrop } from '../src/common/file-drop';
import { isSongFile } from '../src/common/file-kinds';
import { Importer } from '../src/songs/importer';
import { Launched } from '../src/songs/launched';
import { isLittle, sizeText, StorageRoom } from '../src/storage/room';
import { SongStore } from '../src/storage/song-store';
import type { TrackResult } from '../src/workers/batch-api';

const track = (name: string, more: Partial<TrackResult> = {}): TrackResult => ({
  name,
  grid: '1/16',
  lagMs: null,
  notes: 100,
  moved: 80,
  typicalMs: 5.04,
  largestMs: 31.2,
  merges: 0,
  doubts: [],
  ...more,
});
const file = (name: string, bytes: string) => {
  const data = new TextEncoder().encode(bytes);
  return {
    name,
    type: '',
    slice: (a: number, b: number) => ({ arrayBuffer: async () => data.slice(a, b).buffer }),
  } as unknown as File;
};

describe('many files', () => {
  it('tell what is doubtful, the gravest first, and with which tracks', () => {
    const tracks = [track('Bass', { doubts: ['not-sure'] }), track('Kit', { doubts: ['no-bars', 'merges'] })];
    expect(doubtWords(tracks)).toBe('not played to its tempo: Kit · not sure: Bass · merges: Kit');
    expect(doubtWords([track('Bass', { doubts: ['drifting'] })])).toBe('drifting: all tracks');
    expect(doubtRank(tracks)).toBeGreaterThan(doubtRank([track('Bass', { doubts: ['drifting'] })]));
    expect(doubtRank([track('Bass')])).toBe(0);
  });

  it('tell lines, lags and moves of all tracks in a line', () => {
    const tracks = [track('A', { lagMs: -11.2 }), track('B', { grid: '1/8', lagMs: 24 }), track('C', { moved: 0 })];
    expect(foundWords(tracks)).toBe('1/16, 1/8; 11 ms early to 24 ms late');
    expect(foundWords([track('A', { lagMs: 4 })])).toBe('1/16; 4.0 ms late');
    expect(movedWords(tracks)).toBe('160 of 300, 5.0\u00a0ms, most 31\u00a0ms');
    expect(movedWords([track('A', { moved: 0 })])).toBe('none of 100');
  });

  it('are reported with what became of each, under the name that it was written as', () => {
    const named = (name: string) => new File([], name);
    const rows: Row[] = [
      { id: 0, file: named('a.mid'), state: 'done', result: new Blob(), notices: [], tracks: [track('Bass, low')] },
      { id: 1, file: named('b.mid'), state: 'failed', reason: 'It is empty.' },
      { id: 2, file: named('c.mid'), state: 'waiting' },
    ];
    const lines = reportCsv(rows, new Map([[0, 'a (2).mid']])).split('\r\n');
    expect(lines.slice(1)).toEqual([
      'a.mid,a (2).mid,"Bass, low",1/16,,100,80,5,31.2,0,',
      'b.mid,,,,,,,,,,It is empty.',
      '',
    ]);
    const { recipe, files } = JSON.parse(reportJson(recipeFor({ kind: 'fits', strength: 1 }), rows, new Map()));
    expect(recipe.auto).toEqual({ grid: true, lag: true });
    expect(files).toHaveLength(2);
    expect(() => recipeFor({ kind: 'lines', grid: '1/17', strength: 1 })).toThrow(/is not a grid/);
  });

  it('go to the page that wants them, for as long as it is there', () => {
    const drop = TestBed.inject(FileDrop);
    const got: string[] = [];
    expect(drop.give([file('a.mid', '')])).toBe(false);
    TestBed.runInInjectionContext(() => drop.take((files) => got.push(...files.map((f) => f.name))));
    expect(drop.give([file('b.mid', '')])).toBe(true);
    TestBed.resetTestingModule();
    expect(drop.give([file('c.mid', '')])).toBe(false);
    expect(got).toEqual(['b.mid']);
  });
});

describe('files that come in', () => {
  it('are songs by their name or their first bytes', async () => {
    expect(await isSongFile(file('x.sparrow', ''))).toBe(true);
    expect(await isSongFile(file('x.zip', 'PK\x03\x04'))).toBe(true);
    expect(await isSongFile(file('x.mid', 'MThd'))).toBe(false);
    expect(await isSongFile(file('empty', ''))).toBe(false);
  });

  it('from the system open as songs, and keep the place that they came from', async () => {
    const opened: (File & { handle?: unknown })[] = [];
    let launch: (l: object) => void = () => undefined;
    Object.assign(window, { launchQueue: { setConsumer: (take: typeof launch) => (launch = take) } });
    TestBed.configureTestingModule({
      providers: [
        { provide: Importer, useValue: { take: async ({ files }: { files: File[] }) => opened.push(...files) } },
      ],
    });
    TestBed.inject(Launched).listen();
    launch({});
    const handle = { kind: 'file', getFile: async () => file('ferry.sparrow', '') };
    launch({ files: [{ kind: 'directory' }, handle] });
    await new Promise((done) => setTimeout(done, 20));
    expect(opened.map((f) => [f.name, f.handle])).toEqual([['ferry.sparrow', handle]]);
    Reflect.deleteProperty(window, 'launchQueue');
  });
});

describe('the room', () => {
  const estimate = (usage: number, quota: number) =>
    Object.assign(navigator, {
      storage: { estimate: async () => ({ usage, quota }), persisted: async () => false, persist: async () => true },
    });
  const room = () => {
    TestBed.configureTestingModule({
      providers: [
        { provide: SongStore, useValue: { soundBytes: async () => 2e6, banks: { toArray: async () => [] } } },
      ],
    });
    Object.assign(window, { caches: { has: async () => false } });
    return TestBed.inject(StorageRoom);
  };

  it('is told in plain sizes, songs apart from sound files', async () => {
    estimate(5e6, 1e9);
    const r = room();
    await r.measure();
    expect(r.room()).toEqual({ songs: 3e6, soundFiles: 2e6, sounds: 0, free: 995e6, safe: false });
    expect([0, 400, 99_000, 3_400_000, 45e6, 1.2e9].map(sizeText)).toEqual(
      ['0 kB', '1 kB', '99 kB', '3.4 MB', '45 MB', '1.2 GB'].map((t) => t.replace(' ', '\u00a0')),
    );
    expect(isLittle({ ...r.room()!, free: 1e8 })).toBe(true);
  });

  it('is missed before anything is written', async () => {
    estimate(990e6, 1e9);
    const r = room();
    expect(await r.lack(5e6)).toBeNull();
    expect(await r.lack(50e6)).toMatch(/It needs 50.MB, but the browser has room for 10.MB\. Delete songs/);
    Object.assign(navigator, { storage: undefined });
    expect(await r.lack(1e12)).toBeNull();
  });
});
