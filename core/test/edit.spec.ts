import fc from 'fast-check';
import {
  applyEdit,
  changeNotes,
  doEdit,
  EDIT_KINDS,
  isProblem,
  readEdit,
  redo,
  startHistory,
  undo,
  type Edit,
  type History,
} from '@early-sparrow/core/edit';
import { move } from '@early-sparrow/core/shape';
import { writeSmf } from '@early-sparrow/core/smf';
import {
  contentsOf,
  heldAt,
  readSong,
  SongFormatError,
  songFault,
  type Part,
  type Song,
} from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { applied, note, part, treatment } from './build';
import { MAKE, twoTracks } from './make-edits';

const base = twoTracks();
const bytes = (s: Song, which: 'played' | 'corrected') => [...writeSmf(s, perform(s, which))];
const json = (s: Song) => JSON.stringify(s);

const anyStep = fc.record({
  kind: fc.constantFrom(...EDIT_KINDS, 'undo' as const, 'redo' as const),
  numbers: fc.array(fc.nat(), { minLength: 8, maxLength: 8 }),
});

/** Does what a step says, if it fits. */
function go(
  history: History,
  { kind, numbers }: { kind: (typeof EDIT_KINDS)[number] | 'undo' | 'redo'; numbers: number[] },
): History {
  if (kind === 'undo') return undo(history);
  if (kind === 'redo') return redo(history);
  let k = 0;
  const edit = MAKE[kind](history.song, (below) => (below > 0 ? numbers[k++ % numbers.length] % below : 0));
  if (!edit) return history;
  const before = json(history.song);
  const after = doEdit(history, edit);
  if (!isProblem(after)) return after;
  // An edit that does not fit is a problem, told in a sentence, and changes nothing.
  expect(after.problem).toMatch(/\.$/);
  expect(json(history.song)).toBe(before);
  return history;
}

describe('edits', () => {
  it('of every kind can be made, and most of them fit', () => {
    for (const kind of EDIT_KINDS) {
      let fits = 0;
      for (let seed = 0; seed < 40; seed++) {
        let k = seed;
        const edit = MAKE[kind](base, (below) => ((k = (k * 7919 + 13) % 10007), below > 0 ? k % below : 0));
        if (edit && !isProblem(doEdit(startHistory(base), edit))) fits++;
      }
      expect(`${kind}: ${fits > 3}`).toBe(`${kind}: true`);
    }
  });

  it('in any order, undone, leave the song as it was, to the byte of its JSON and of its files', () => {
    const played = bytes(base, 'played');
    const corrected = bytes(base, 'corrected');
    fc.assert(
      fc.property(fc.array(anyStep, { maxLength: 30 }), (steps) => {
        let history = startHistory(base);
        for (const step of steps) {
          history = go(history, step);
          expect(songFault(history.song)).toBeNull();
        }
        const end = history;
        const depth = history.undo.length;
        for (let i = 0; i < depth; i++) history = undo(history);
        expect(json(history.song)).toBe(json(base));
        expect(bytes(history.song, 'played')).toEqual(played);
        expect(bytes(history.song, 'corrected')).toEqual(corrected);
        for (let i = 0; i < depth; i++) history = redo(history);
        expect(json(history.song)).toBe(json(end.song));
        expect(history.undo).toHaveLength(depth);
      }),
      { numRuns: 400 },
    );
  });

  it('in any order leave no pedal or bend held at the end of a part or take where none was before', () => {
    const heldAtEnds = (s: Song) =>
      new Set(
        s.tracks.flatMap((t) =>
          t.parts.flatMap((p) => contentsOf(p).flatMap((c) => heldAt(c.events).map((e) => `${e.type} ${e.channel}`))),
        ),
      );
    // Events alone are what the user puts in; all else must close what it opens.
    const steps = fc.array(
      anyStep.filter(({ kind }) => kind !== 'events'),
      { maxLength: 25 },
    );
    const before = heldAtEnds(base);
    fc.assert(
      fc.property(steps, (all) => {
        const { song: s } = all.reduce(go, startHistory(base));
        for (const held of heldAtEnds(s)) expect(before).toContain(held);
      }),
      { numRuns: 300 },
    );
  });

  it('give a part its span back though a note had come to lie inside of the new one', () => {
    const lone = { ...part(base), start: 960, end: 3840, notes: [note(0, 700), note(1, 2000)], events: [] };
    const s = { ...base, tracks: [{ ...base.tracks[0], parts: [lone] }] };
    const wider = doEdit(startHistory(s), { kind: 'part-span', name: 'x', part: lone.id, start: 600, end: 3840 });
    if (isProblem(wider)) throw new Error(wider.problem);
    expect(undo(wider).song).toEqual(s);
    expect(redo(undo(wider)).song).toEqual(wider.song);
    // By hand it is not made so: the note would be left out.
    const narrower = { kind: 'part-span', name: 'x', part: lone.id, start: 960, end: 3840 } as const;
    expect(isProblem(doEdit(wider, narrower))).toBe(true);
  });

  it('keep a song such that it is read from storage again, and written', () => {
    fc.assert(
      fc.property(fc.array(anyStep, { maxLength: 20 }), (steps) => {
        const { song: s } = steps.reduce(go, startHistory(base));
        expect(readSong(structuredClone(s))).toEqual(s);
        expect(bytes(s, 'corrected').length).toBeGreaterThan(20);
      }),
      { numRuns: 100 },
    );
  });

  it('survive storage, and are refused with what is wrong where they were damaged', () => {
    const edit = changeNotes('Move', part(base), [note(1, 20)]);
    expect(readEdit(structuredClone(edit))).toEqual(edit);
    expect(readEdit({ ...edit, add: [{ ...note(1, 20), pitch: 200 }] })).toMatchObject({
      problem: /add\.0\.pitch/ as never,
    });
    expect(readEdit({ ...edit, kind: 'melt' })).toHaveProperty('problem');
    expect(readEdit({ kind: 'several', name: 'x', edits: [{ kind: 'several', name: 'y', edits: [] }] })).toHaveProperty(
      'problem',
    );
    expect(readEdit(null)).toHaveProperty('problem');
  });

  it('that the schema refuses are not done either: what is on screen is what a reload shows', () => {
    const groove = {
      kind: 'early-sparrow-groove',
      version: 1,
      name: 'Loud',
      value: 16,
      bars: 1,
      slots: [{ offset: 0, velocity: 9, count: 1 }],
    };
    const bad = treatment({ quantize: { on: true, groove: { groove, timing: 1, velocity: 1 } as never } });
    expect(doEdit(startHistory(base), { kind: 'treatment', name: 'x', part: 'p', treatment: bad })).toHaveProperty(
      'problem',
    );
  });

  it('never put two notes of one id into a song', () => {
    const add = (...notes: ReturnType<typeof note>[]): Edit => ({
      kind: 'notes',
      name: 'x',
      part: 'p',
      remove: [],
      add: notes,
    });
    expect(applyEdit(base, add(note(1, 50)))).toHaveProperty('problem');
    expect(applyEdit(base, add(note(10, 50)))).toHaveProperty('problem');
    expect(applyEdit(base, add(note(30, 50), note(30, 60)))).toHaveProperty('problem');
    expect(applied(base, add(note(30, 50))).song.nextId).toBe(31);
  });

  it('that join the step before are one step for undo', () => {
    const nudge = (by: number): Edit => ({
      ...changeNotes('Move one note', part(base), [note(1, 920 + by, { pitch: 61 })]),
      joins: true,
    });
    let history = startHistory(base);
    for (let by = 1; by <= 10; by++) history = doEdit(history, nudge(by)) as History;
    expect(history.undo).toHaveLength(1);
    expect(json(undo(history).song)).toBe(json(base));
    expect(json(redo(undo(history)).song)).toBe(json(history.song));
    // Another note is another step.
    const other: Edit = { ...changeNotes('Move one note', part(base), [note(2, 1900)]), joins: true };
    expect((doEdit(history, other) as History).undo).toHaveLength(2);
    // So is a key that is held, however often it repeats; a pause or another gesture begins anew.
    const pressed = (by: number, at: number, how = 'nudge'): Edit => {
      const { joins: _joins, ...edit } = nudge(by);
      return { ...edit, name: `Move by ${by}`, how, at };
    };
    let keys = startHistory(base);
    for (let k = 1; k <= 100; k++) keys = doEdit(keys, pressed(k, k * 1000)) as History;
    expect(keys.undo).toHaveLength(1);
    // It says what it came to, not what its first press did.
    expect(keys.undo[0].edit.name).toBe('Move by 100');
    expect(json(undo(keys).song)).toBe(json(base));
    expect((doEdit(keys, pressed(5, 104_000)) as History).undo).toHaveLength(2);
    expect((doEdit(keys, pressed(5, 100_001, 'drag')) as History).undo).toHaveLength(2);
    // After an undo a step begins anew.
    expect((doEdit(undo(history), nudge(4)) as History).undo).toHaveLength(1);
  });
});

describe('a key that is held', () => {
  it('is one step across the border of a part, too, to and fro', () => {
    // Without a treatment the notes themselves are moved; under one they would be pinned.
    const [{ parts }, ...others] = base.tracks;
    const off = { ...base, tracks: [{ ...base.tracks[0], parts: parts.map((p) => ({ ...p, on: false })) }, ...others] };
    let history = startHistory(off);
    let at = 0;
    const press = (ids: readonly number[], ticks: number) => {
      const [track] = history.song.tracks;
      const edit = move(history.song, track, ids, 'corrected', { ticks, rows: 0, pitches: [] });
      if (!edit || isProblem(edit)) throw new Error('nothing moves');
      history = doEdit(history, { ...edit, how: 'nudge', at: (at += 30) }) as History;
    };
    const endOf = () => history.song.tracks[0].parts[1].end;
    const before = endOf();
    // The last note lies 2520 ticks before the end of its part, which grows with it.
    for (let i = 0; i < 30; i++) press([8, 9], 150);
    expect(endOf()).toBeGreaterThan(before);
    expect(history.undo).toHaveLength(1);
    for (let i = 0; i < 40; i++) press([8, 9], i % 10 < 5 ? 400 : -400);
    expect(history.undo).toHaveLength(1);
    expect(json(undo(history).song)).toBe(json(off));
    expect(json(redo(undo(history)).song)).toBe(json(history.song));
    // It does not keep every press.
    expect(JSON.stringify(history.undo[0].edit).length).toBeLessThan(20_000);
    // Other notes are another step.
    press([9], -5);
    expect(history.undo).toHaveLength(2);
  });
});

describe('stored songs', () => {
  it('are checked, and the first fault is named', () => {
    expect(readSong(structuredClone(base))).toEqual(base);
    const [track, other] = base.tracks;
    const broken = { ...base, tracks: [{ ...track, level: 2 }, other] };
    expect(() => readSong(broken)).toThrow(SongFormatError);
    expect(() => readSong(broken)).toThrow(/tracks\.0\.level/);
    expect(() => readSong({ ...base, version: 7 })).toThrow(/newer than this program/);
    const withPart0 = (change: Partial<Part>) => ({
      ...base,
      tracks: [{ ...track, parts: [{ ...track.parts[0], ...change }, track.parts[1]] }, other],
    });
    expect(() => readSong(withPart0({ notes: [note(8, 0)] }))).toThrow(/the note 8 is there twice/);
    expect(() => readSong(withPart0({ notes: [note(3, 90), note(1, 20)] }))).toThrow(/order of time/);
    expect(() => readSong(withPart0({ end: 9000 }))).toThrow(/overlap/);
    expect(() => readSong(withPart0({ notes: [{ ...note(1, 20), pitch: 128 }] }))).toThrow(/parts\.0\.notes\.0\.pitch/);
    expect(() => readSong({ ...base, nextId: 5 })).toThrow(/nextId/);
  });
});
