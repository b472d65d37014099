import fc from 'fast-check';
import {
  addPart,
  addTrack,
  applyEdit,
  changeNotes,
  doEdit,
  EDIT_KINDS,
  isProblem,
  movePart,
  readEdit,
  redo,
  startHistory,
  undo,
  type Edit,
  type History,
  type SimpleEdit,
} from '@early-sparrow/core/edit';
import { writeSmf } from '@early-sparrow/core/smf';
import { newTrack, readSong, SongFormatError, songFault, type Part, type Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { applied, note, part, song, treatment, withEvents } from './build';

const pedal = (tick: number, value: number) =>
  ({ type: 'controller', controller: 64, channel: 0, tick, order: tick + 0.5, value }) as const;
const bend = (tick: number, value: number) => ({ type: 'bend', channel: 0, tick, order: tick + 0.7, value }) as const;

/** Two tracks from a file; the first has two parts, and a pedal and a bend that are held over its bars. */
function twoTracks(): Song {
  const one = withEvents(
    song(
      [0, 1, 2, 3].map((i) => note(i, i * 900 + 20, { pitch: 60 + i, order: [i * 2, i * 2 + 1] })),
      { quantize: { on: true } },
    ),
    [pedal(10, 127), bend(1000, 300), pedal(3700, 0)],
  );
  const [track] = one.tracks;
  const more: Part = {
    ...part(one),
    id: 'p6',
    start: 7680,
    end: 11520,
    notes: [note(8, 7700), note(9, 9000)],
    events: [],
  };
  const name = { type: 'meta', tick: 0, order: 0, meta: 3, data: Uint8Array.of(0x53, 0x70, 0xe5, 0x72) } as const;
  const first = {
    ...track,
    name: 'Spår',
    parts: [part(one), more],
    setup: [name],
    origin: { source: 0, name: 'Spår', end: 12000 },
  };
  const other = { ...more, id: 'p7', name: 'Other', notes: [note(10, 7000, { channel: 1 })], start: 3840, end: 7680 };
  const second = newTrack('t5', 'Second', {
    parts: [{ ...other, origin: { source: 1 } }],
    origin: { source: 1, name: 'Second', end: 12000 },
  });
  return { ...one, tracks: [first, second], nextId: 20 };
}

const base = twoTracks();
const bytes = (s: Song, which: 'played' | 'corrected') => [...writeSmf(s, perform(s, which))];
const json = (s: Song) => JSON.stringify(s);

/** One edit of each kind, made for the song at hand; numbers choose among what it has. */
const MAKE: Record<SimpleEdit['kind'], (s: Song, n: (below: number) => number) => Edit | null> = {
  treatment: (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'treatment',
      name: 'x',
      part: p.id,
      treatment: treatment({
        quantize: { on: n(2) > 0, strength: n(5) / 4 },
        push: { on: true, amount: { value: n(40) - 20, unit: 'ms' } },
      }),
    })),
  'part-on': (s, n) => withPart(s, n, (p) => ({ kind: 'part-on', name: 'x', part: p.id, on: !p.on })),
  sets: (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'sets',
      name: 'x',
      part: p.id,
      sets: [
        {
          id: 'own1',
          name: 'own',
          treatment: treatment({ lag: { on: true, amount: { value: n(50), unit: 'ticks' } } }),
        },
      ],
    })),
  notes: (s, n) =>
    withPart(s, n, (p) => {
      const some = p.notes.filter(() => n(3) === 0);
      const changed = some.map((x) => ({
        ...x,
        start: Math.max(0, x.start + n(600) - 300),
        pitch: n(128),
        ...(n(3) === 0 ? { exception: { kind: 'pinned', start: n(9000), length: 50, velocity: 70 } as const } : {}),
      }));
      const fresh = n(2) ? [note(s.nextId, p.start + n(900), { order: undefined })] : [];
      return {
        kind: 'notes',
        name: 'x',
        part: p.id,
        remove: some.map((x) => x.id),
        add: n(4) ? [...changed, ...fresh] : [],
        ...(n(3) === 0 ? { joins: true } : {}),
      };
    }),
  events: (s, n) =>
    withPart(s, n, (p) => {
      const tick = n(9000);
      const at = p.events.filter((e) => e.tick <= tick).length;
      return {
        kind: 'events',
        name: 'x',
        part: p.id,
        remove: [],
        add: [{ at, event: { type: 'bend', channel: 0, tick, value: n(500) } }],
      };
    }),
  parts: (s, n) =>
    withPart(s, n, (p, t) =>
      n(2)
        ? { kind: 'parts', name: 'x', track: t, remove: [p.id], add: [] }
        : addPart(s, t, 'New', n(9) * 1920, n(9) * 1920 + 1920),
    ),
  'part-move': (s, n) =>
    withPart(s, n, (p) => movePart(s, p.id, s.tracks[n(s.tracks.length)].id, n(16000) - 8000, n(2) ? 'cut' : 'refuse')),
  'part-span': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-span',
      name: 'x',
      part: p.id,
      start: Math.max(0, p.start - n(500)),
      end: p.end + n(900) - 300,
    })),
  'part-cut': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-cut',
      name: 'x',
      part: p.id,
      at: p.start + n(p.end - p.start + 2),
      id: s.nextId,
    })),
  'part-join': (s, n) =>
    withPart(s, n, (p, t) => {
      const { parts } = s.tracks.find((x) => x.id === t) ?? s.tracks[0];
      return {
        kind: 'part-join',
        name: 'x',
        part: p.id,
        with: parts[parts.indexOf(p) + 1]?.id ?? 'none',
        id: s.nextId,
      };
    }),
  'part-copy': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-copy',
      name: 'x',
      part: p.id,
      track: s.tracks[n(s.tracks.length)].id,
      at: n(20) * 1920,
      id: s.nextId,
    })),
  'part-look': (s, n) =>
    withPart(s, n, (p) => ({
      kind: 'part-look',
      name: 'x',
      part: p.id,
      to: `Part ${n(9)}`,
      colour: n(12),
      muted: n(2) > 0,
    })),
  tracks: (s, n) =>
    n(2) || s.tracks.length === 0
      ? addTrack(s, `Track ${n(9)}`)
      : { kind: 'tracks', name: 'x', remove: [s.tracks[n(s.tracks.length)].id], add: [] },
  'track-order': (s, n) => ({
    kind: 'track-order',
    name: 'x',
    ids: s.tracks
      .map((t) => ({ id: t.id, by: n(100) }))
      .sort((a, b) => a.by - b.by)
      .map((t) => t.id),
  }),
  'track-name': (s, n) =>
    withTrack(s, n, (track) => ({ kind: 'track-name', name: 'x', track, to: ['Fågel', '小鳥', 'Oboe'][n(3)] })),
  'track-colour': (s, n) =>
    withTrack(s, n, (track) => ({ kind: 'track-colour', name: 'x', track, colour: n(2) ? n(12) : null })),
  'track-sound': (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'track-sound',
      name: 'x',
      track,
      to: {
        voice: n(2) ? 'reed' : null,
        program: n(2) ? n(128) : null,
        channel: n(2) ? n(16) : null,
        transpose: n(121) - 60,
        delay: { value: n(90) - 45, unit: 'ms' },
        output: null,
      },
    })),
  mix: (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'mix',
      name: 'x',
      track,
      mute: n(2) > 0,
      solo: false,
      level: n(5) / 4,
      pan: n(3) - 1,
    })),
  setup: (s, n) =>
    withTrack(s, n, (track) => ({
      kind: 'setup',
      name: 'x',
      track,
      remove: [],
      add: [{ at: 0, event: { type: 'program', tick: n(4000), channel: 0, program: n(128) } }],
    })),
  tempo: (_, n) => ({
    kind: 'tempo',
    name: 'x',
    to: [
      { tick: n(500), usPerQuarter: 300_000 + n(400_000) },
      { tick: 500 + n(5000), usPerQuarter: 500_000 },
    ],
  }),
  meter: (_, n) => ({
    kind: 'meter',
    name: 'x',
    to: [{ tick: n(9) * 960, numerator: 1 + n(9), denominator: 4, clocks: 24, thirtySeconds: 8 }],
  }),
  markers: (_, n) => ({ kind: 'markers', name: 'x', to: [{ tick: n(9000), name: `Verse ${n(9)}` }] }),
  'song-name': (_, n) => ({ kind: 'song-name', name: 'x', to: `Song ${n(9)}` }),
};

function withPart(s: Song, n: (below: number) => number, make: (p: Part, track: string) => Edit | null): Edit | null {
  const all = s.tracks.flatMap((t) => t.parts.map((p) => ({ p, t: t.id })));
  if (all.length === 0) return null;
  const { p, t } = all[n(all.length)];
  return make(p, t);
}

function withTrack(s: Song, n: (below: number) => number, make: (track: string) => Edit): Edit | null {
  return s.tracks.length > 0 ? make(s.tracks[n(s.tracks.length)].id) : null;
}

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
    // After an undo a step begins anew.
    expect((doEdit(undo(history), nudge(4)) as History).undo).toHaveLength(1);
  });
});

describe('parts', () => {
  const held = (p: Part) => p.events.map((e) => [e.type, e.tick, 'value' in e ? e.value : 0]);
  const cut = applied(base, { kind: 'part-cut', name: 'Cut', part: 'p', at: 1500, id: 20 }).song;
  const [left, right] = cut.tracks[0].parts;

  it('are cut with what is held: closed on the left, set again on the right', () => {
    expect(left.notes.map((n) => n.id)).toEqual([0, 1]);
    expect(right.notes.map((n) => n.id)).toEqual([2, 3]);
    expect(held(left)).toEqual([
      ['controller', 10, 127],
      ['bend', 1000, 300],
      ['controller', 1500, 0],
      ['bend', 1500, 0],
    ]);
    expect(held(right)).toEqual([
      ['controller', 1500, 127],
      ['bend', 1500, 300],
      ['controller', 3700, 0],
    ]);
  });

  it('that were cut and joined again are what they were', () => {
    const joined = applied(cut, { kind: 'part-join', name: 'Join', part: 'p', with: 'p20', id: cut.nextId }).song;
    expect(joined.tracks).toEqual(base.tracks);
  });

  it('keep what each of them sounded like when they are joined', () => {
    const sound = (s: Song) =>
      perform(s, 'corrected')[0]
        .notes.map((n) => [n.note.id, n.start])
        .sort((a, b) => a[0] - b[0]);
    const other = applied(base, {
      kind: 'treatment',
      name: 'x',
      part: 'p6',
      treatment: treatment({ push: { on: true, amount: { value: 33, unit: 'ticks' } } }),
    }).song;
    const joined = applied(other, { kind: 'part-join', name: 'Join', part: 'p', with: 'p6', id: 20 }).song;
    expect(sound(joined)).toEqual(sound(other));
    const off = applied(other, { kind: 'part-on', name: 'x', part: 'p', on: false }).song;
    expect(sound(applied(off, { kind: 'part-join', name: 'Join', part: 'p', with: 'p6', id: 20 }).song)).toEqual(
      sound(off),
    );
  });

  it('take everything along when they move, and go nowhere before the song', () => {
    const moved = applied(base, { kind: 'part-move', name: 'x', part: 'p', track: 't', by: 3840 }).song.tracks[0]
      .parts[0];
    expect(moved).toMatchObject({ start: 3840, end: 7680 });
    expect(moved.notes.map((n) => n.start)).toEqual([3860, 4760, 5660, 6560]);
    expect(held(moved)[0]).toEqual(['controller', 3850, 127]);
    expect(applyEdit(base, { kind: 'part-move', name: 'x', part: 'p', track: 't', by: -1 })).toMatchObject({
      problem: '“Part” would begin before the song.',
    });
  });

  it('are refused on another part, or cut it, as is wished', () => {
    const refused = movePart(base, 'p', 't5', 1920, 'refuse');
    expect(refused && applyEdit(base, refused)).toMatchObject({
      problem: expect.stringContaining('“Other”') as string,
    });
    const edit = movePart(base, 'p', 't5', 1920, 'cut');
    const after = edit && applied(base, edit).song.tracks[1].parts;
    expect(after?.map((p) => [p.start, p.end])).toEqual([
      [1920, 5760],
      [5760, 7680],
    ]);
  });

  it('do not leave notes outside of their span', () => {
    expect(applyEdit(base, { kind: 'part-span', name: 'x', part: 'p', start: 0, end: 2000 })).toMatchObject({
      problem: expect.stringContaining('one note') as string,
    });
    expect(
      applied(base, { kind: 'part-span', name: 'x', part: 'p', start: 0, end: 5000 }).song.tracks[0].parts[0].end,
    ).toBe(5000);
  });

  it('are silent when they are muted, with their events', () => {
    const muted = applied(base, {
      kind: 'part-look',
      name: 'x',
      part: 'p',
      to: 'Part',
      colour: null,
      muted: true,
    }).song;
    for (const which of ['played', 'corrected'] as const) {
      const [track] = perform(muted, which);
      expect(track.notes.map((n) => n.note.id)).toEqual([8, 9]);
      expect(track.events.filter((e) => e.event.type === 'controller')).toEqual([]);
    }
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
