import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { changeNotes, doEdit, startHistory, undo, type Edit, type History } from '@early-sparrow/core/edit';
import { writeSmf } from '@early-sparrow/core/smf';
import { perform } from '@early-sparrow/core/treatment';
import { note, part } from '../../core/test/build';
import type { Database } from '../src/storage/database';
import { ConflictError, GoneError, type Journal } from '../src/storage/journal';
import type { SongStore } from '../src/storage/song-store';
import { SongWriter, type WriterState } from '../src/storage/song-writer';
import { WriterLock } from '../src/storage/writer-lock';
import { after, base, does, freshStore, until } from './kept';
import { FakeChannel, SharedLocks } from './tabs';

let database: Database;
let journal: Journal;
let songs: SongStore;

beforeEach(() => ({ database, journal, songs } = freshStore()));
afterEach(() => database.delete());

describe('a journal', () => {
  it('gives back a song with all that undo and redo would do', async () => {
    const id = await songs.add(base);
    const steps = after('a', 'b', 'c');
    await journal.append(id, [
      { n: 1, ...does('a') },
      { n: 2, ...does('b') },
    ]);
    await journal.append(id, [{ n: 3, ...does('c') }]);
    await journal.append(id, [{ n: 4, act: 'undo', edit: steps.undo[2].edit }]);
    const kept = await songs.open(id, true);
    expect(kept).toEqual({ history: undo(steps), n: 4, damage: null });
  });

  it('opens what was added last as it is in memory, unless another tab has written to it or deleted it', async () => {
    const id = await songs.add(base);
    expect((await songs.open(id, true))?.history.song).toBe(base);
    const read = await songs.open(id, true);
    expect(read?.history.song).not.toBe(base);
    expect(read).toEqual({ history: startHistory(base), n: 0, damage: null });
    const written = await songs.add(base);
    await journal.append(written, [{ n: 1, ...does('a') }]);
    expect(await songs.open(written, true)).toEqual({ history: after('a'), n: 1, damage: null });
    const deleted = await songs.add(base);
    await database.snapshots.delete(deleted);
    expect(await songs.open(deleted, true)).toBeUndefined();
  });

  it('keeps undo over a snapshot, and goes on being numbered', async () => {
    const id = await songs.add(base);
    const steps = after('a', 'b');
    await journal.append(id, [
      { n: 1, ...does('a') },
      { n: 2, ...does('b') },
    ]);
    await journal.snapshot(id, steps, 2);
    expect(await database.entries.count()).toBe(1);
    expect(await songs.open(id, true)).toEqual({ history: steps, n: 2, damage: null });
    await journal.append(id, [{ n: 3, ...does('c') }]);
    expect((await songs.open(id, true))?.history).toEqual(after('a', 'b', 'c'));
    expect(await journal.last(id)).toBe(3);
  });

  it('takes no step of a song that is gone, and none out of order', async () => {
    const id = await songs.add(base);
    await journal.append(id, [{ n: 1, ...does('a') }]);
    await expect(journal.append(id, [{ n: 1, ...does('b') }])).rejects.toThrow(ConflictError);
    await expect(journal.append(id, [{ n: 3, ...does('b') }])).rejects.toThrow(ConflictError);
    await songs.remove(id);
    await expect(journal.append(id, [{ n: 2, ...does('b') }])).rejects.toThrow(GoneError);
    expect(await database.entries.count()).toBe(0);
  });

  it.each<[string, unknown]>([
    ['one that is no edit', { kind: 'melt' }],
    ['one that the schema refuses', { ...changeNotes('x', part(base), [note(0, 5)]), remove: ['all'] }],
    ['one that does not fit', { kind: 'part-on', name: 'x', part: 'none', on: false }],
  ])('with a damaged step, %s, opens what is before it, tells, and keeps the rest', async (_, edit) => {
    const id = await songs.add(base);
    await journal.append(id, [
      { n: 1, ...does('a') },
      { n: 2, act: 'do', edit: edit as Edit },
      { n: 3, ...does('c') },
    ]);
    const kept = await songs.open(id, true);
    expect(kept?.history).toEqual(after('a'));
    expect(kept?.damage).toMatchObject({ steps: 2 });
    expect((await database.damaged.toArray())[0].entries).toHaveLength(2);
    expect(await songs.record(id)).toMatchObject({ damaged: [{ entries: [{ n: 2 }, { n: 3 }] }] });
    // What was opened is whole again, and goes on.
    await journal.append(id, [{ n: 2, ...does('d') }]);
    expect(await songs.open(id, true)).toEqual({ history: after('a', 'd'), n: 2, damage: null });
  });

  it('with a step that is missing opens what is before the gap', async () => {
    const id = await songs.add(base);
    await journal.append(id, [
      { n: 1, ...does('a') },
      { n: 2, ...does('b') },
      { n: 3, ...does('c') },
    ]);
    await database.entries.delete([id, 2]);
    expect(await songs.open(id, true)).toMatchObject({ n: 1, damage: { steps: 1, reason: 'step 2 is missing' } });
  });

  it('does not open a song that is damaged itself, and leaves it as it is', async () => {
    const id = await songs.add(base);
    // What was added is opened as it is in memory; later openings read it.
    await songs.open(id, true);
    const broken = { id, song: { ...base, ppq: -5 }, n: 0 };
    await database.snapshots.put(broken);
    await expect(songs.open(id, true)).rejects.toThrow(/ppq/);
    expect(await songs.record(id)).toMatchObject({ snapshot: broken });
  });

  it('opens a library of version 1, with everything that was done', async () => {
    const revive = (_: string, value: unknown): unknown => {
      const bytes = (value as { $bytes?: string } | null)?.$bytes;
      return typeof bytes === 'string' ? new Uint8Array(Buffer.from(bytes, 'base64')) : value;
    };
    const file = join(__dirname, '../../core/test/fixtures/version-1.json');
    const library = JSON.parse(readFileSync(file, 'utf8'), revive) as {
      snapshot: unknown;
      journal: unknown[];
      names: string[];
      corrected: string;
    }[];
    for (const [i, old] of library.entries()) {
      await database.snapshots.put({ id: `old${i}`, song: old.snapshot });
      await database.journal.bulkAdd(old.journal.map((step) => ({ song: `old${i}`, step })));
      for (let time = 0; time < 2; time++) {
        const kept = await songs.open(`old${i}`, true);
        const now = kept?.history.song ?? base;
        expect(kept?.history.undo.map((s) => s.edit.name)).toEqual(old.names);
        expect(Buffer.from(writeSmf(now, perform(now, 'corrected'))).toString('base64')).toBe(old.corrected);
      }
    }
    // Opened once, they are kept as songs of today.
    expect(await database.journal.count()).toBe(0);
  }, 30_000);
});

describe('a writer', () => {
  const told: WriterState[] = [];
  const now = () => told.at(-1);
  beforeEach(() => told.splice(0));
  const writerOf = (id: string, n = 0) => new SongWriter(journal, id, n, (state) => told.push(state));

  it('writes steps in their order, and says so only once they are written', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    for (const to of ['a', 'b', 'c']) writer.add(does(to), after(to));
    expect(now()).toEqual({ unsaved: 3, trouble: null });
    await until(() => now()?.unsaved === 0);
    expect((await songs.open(id, true))?.history).toEqual(after('a', 'b', 'c'));
    expect((await database.infos.get(id))?.name).toBe('c');
  });

  it('tells a write that fails at once, tries again, and loses and disorders nothing', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    const append = jest.spyOn(journal, 'append').mockRejectedValueOnce(new DOMException('full', 'QuotaExceededError'));
    writer.add(does('a'), after('a'));
    await until(() => now()?.trouble === 'failed');
    expect(now()).toEqual({ unsaved: 1, trouble: 'failed' });
    writer.add(does('b'), after('a', 'b'));
    await until(() => now()?.unsaved === 0);
    expect(now()?.trouble).toBeNull();
    expect(append.mock.calls.length).toBeGreaterThan(1);
    expect((await songs.open(id, true))?.history).toEqual(after('a', 'b'));
  });

  it('knows a song that was deleted, and keeps it again whole', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    await songs.remove(id);
    writer.add(does('a'), after('a'));
    await until(() => now()?.trouble === 'gone');
    await songs.put(id, { history: after('a'), n: writer.last, damage: null });
    writer.keptUpTo(writer.last);
    expect(now()).toEqual({ unsaved: 0, trouble: null });
    writer.add(does('b'), after('a', 'b'));
    await until(() => now()?.unsaved === 0);
    expect((await songs.open(id, true))?.history).toEqual(after('a', 'b'));
  });

  it('writes what was done while the song was being kept again', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    await songs.remove(id);
    writer.add(does('a'), after('a'));
    await until(() => now()?.trouble === 'gone');
    const n = writer.last;
    const putting = songs.put(id, { history: after('a'), n, damage: null });
    writer.add(does('b'), after('a', 'b'));
    await putting;
    writer.keptUpTo(n);
    await until(() => now()?.unsaved === 0);
    expect((await songs.open(id, true))?.history).toEqual(after('a', 'b'));
  });

  it('leaves no gap behind a snapshot: a step that does not follow it is refused', async () => {
    const id = await songs.add(base);
    await songs.put(id, { history: after('a'), n: 4, damage: null });
    await expect(journal.append(id, [{ n: 7, ...does('b') }])).rejects.toThrow(ConflictError);
    expect(await database.entries.count()).toBe(0);
    await journal.append(id, [{ n: 5, ...does('b') }]);
  });

  it('shortens a long journal once nothing happens, and undo goes on', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    let history = startHistory(base);
    for (let i = 0; i < 220; i++) {
      const deed = does(`n${i}`);
      history = doEdit(history, deed.edit) as History;
      writer.add(deed, history);
    }
    await until(() => now()?.unsaved === 0);
    expect(await database.entries.count()).toBe(220);
    await until(async () => (await database.entries.count()) === 1);
    expect((await songs.open(id, true))?.history).toEqual(history);
  });

  it('stopped by another tab, it says what is in no journal', async () => {
    const id = await songs.add(base);
    const writer = writerOf(id);
    jest.spyOn(journal, 'append').mockRejectedValue(new Error('frozen'));
    writer.add(does('a'), after('a'));
    await until(() => now()?.trouble === 'failed');
    writer.stop();
    expect(now()).toEqual({ unsaved: 1, trouble: 'conflict' });
  });
});

describe('the right to write', () => {
  const channel = globalThis.BroadcastChannel;
  beforeEach(() => ((globalThis as { BroadcastChannel?: unknown }).BroadcastChannel = FakeChannel));
  afterEach(() => (globalThis.BroadcastChannel = channel));

  it('is one tab’s, goes to another that asks once what is open is written, and comes back', async () => {
    const { manager } = new SharedLocks();
    const [one, two] = [new WriterLock('x', manager), new WriterLock('x', manager)];
    const said: string[] = [];
    one.onAsked = () => Promise.resolve(void said.push('written'));
    one.onLost = () => said.push('lost');
    expect(await one.take()).toBe(true);
    expect(await two.take()).toBe(false);
    expect(await two.takeOver()).toBe(true);
    expect(said).toEqual(['written', 'lost']);
    expect([one.isHeld, two.isHeld]).toEqual([false, true]);
    expect(await one.takeOver()).toBe(true);
    one.release();
    await until(() => two.take());
    two.release();
  });

  it('is taken from a tab that does not answer', async () => {
    const { manager } = new SharedLocks();
    const [one, two] = [new WriterLock('y', manager), new WriterLock('y', manager)];
    let lost = false;
    one.onAsked = () => new Promise(() => undefined);
    one.onLost = () => (lost = true);
    await one.take();
    expect(await two.takeOver()).toBe(true);
    await until(() => lost);
    two.release();
  });

  it('is given back when a song is left', async () => {
    const { manager } = new SharedLocks();
    const [one, two] = [new WriterLock('z', manager), new WriterLock('z', manager)];
    await one.take();
    one.release();
    await until(() => two.take());
  });
});
