import fc from 'fast-check';
import { applyEdit, isProblem, readEdit, type Edit } from '@early-sparrow/core/edit';
import { grid } from '@early-sparrow/core/grid';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { counted, songFault, takeOf, timeOf, type Note, type Part, type Song } from '@early-sparrow/core/song';
import {
  addNotes,
  byStep,
  copiesOf,
  cutAtLines,
  cutNotes,
  erase,
  fixedLength,
  intoScale,
  joinNotes,
  legato,
  levelAndContrast,
  looser,
  louder,
  move,
  mute,
  onePitch,
  reshape,
  resize,
  reverse,
  SCALES,
  setLengths,
  setVelocities,
  spanOf,
  spanOfIds,
  stretch,
  takeUp,
  tidy,
  findUntidy,
  tighter,
  toNextLine,
  toPartEnd,
  transpose,
  type Shaped,
  type Side,
  type Taken,
} from '@early-sparrow/core/shape';
import { factsOf, partLines, perform, treatPart } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { after } from './shaped';
import { applied, note, part, song, treated, treatment } from './build';

const ALL = Array.from({ length: 128 }, (_, pitch) => pitch);

/** The lines of each part of a song. */
const linesOf = (s: Song) => (p: Part) => partLines(p, s);

const idsOf = (taken: readonly Taken[]) => taken.map((t) => t.note.id);

/** Everything that can be done to notes, by name; the numbers are anything. */
const SHAPES: Record<string, (s: Song, taken: Taken[], n: number, side: Side) => Shaped> = {
  move: (s, t, n, side) =>
    move(s, s.tracks[0], idsOf(t), side, { ticks: (n % 4000) - 2000, rows: (n % 9) - 4, pitches: ALL }),
  'resize the end': (s, t, n) => resize(s.tracks[0], t, { edge: 'end', by: (n % 1200) - 600, held: null }),
  'resize the start': (s, t, n) => resize(s.tracks[0], t, { edge: 'start', by: (n % 1200) - 600, held: null }),
  'resize in proportion': (s, t, n) =>
    resize(s.tracks[0], t, { edge: n % 2 ? 'end' : 'start', by: (n % 700) - 350, held: t[0] }),
  stretch: (s, t, n) => stretch(s.tracks[0], t, (n % 40) / 10),
  reverse: (s, t) => reverse(s.tracks[0], t),
  legato: (s, t) => legato(s.tracks[0], t, timeOf(s).tempo),
  fixed: (s, t, n) => fixedLength(s.tracks[0], t, n % 500),
  'to the next line': (s, t) => toNextLine(s.tracks[0], t, linesOf(s)),
  'to the end': (s, t) => toPartEnd(s.tracks[0], t),
  longer: (s, t, n) => byStep(s.tracks[0], t, linesOf(s), n % 2 ? 1 : -1),
  transpose: (s, t, n) => transpose(s.tracks[0], t, (n % 200) - 100),
  scale: (s, t, n) => intoScale(s.tracks[0], t, n % 12, 'dorian'),
  'one pitch': (s, t, n) => onePitch(s.tracks[0], t, n % 140),
  louder: (s, t, n) => louder(s.tracks[0], t, (n % 60) - 30),
  contrast: (s, t, n) => levelAndContrast(s.tracks[0], t, { level: (n % 40) - 20, contrast: (n % 30) / 10 }),
  'draw velocities': (s, t, n) => setVelocities(s.tracks[0], t, new Map(t.map((o, i) => [o.note.id, (n + i) % 140]))),
  'draw lengths': (s, t, n) => setLengths(s.tracks[0], t, new Map(t.map((o, i) => [o.note.id, (n + i * 7) % 900]))),
  mute: (s, t, n) => mute(s.tracks[0], t, n % 2 === 0),
  cut: (s, t, n) => cutNotes(s, s.tracks[0], t, ({ start }) => [start + (n % 300), start + (n % 900)]),
  'cut at lines': (s, t) => cutAtLines(s, s.tracks[0], t, linesOf(s)),
  join: (s, t) => joinNotes(s.tracks[0], t),
  erase: (s, t) => erase(s.tracks[0], t),
  looser: (s, t) => looser(s.tracks[0], t, linesOf(s), timeOf(s).tempo),
  tighter: (s, t) => tighter(s.tracks[0], t, linesOf(s)),
  tidy: (s, t, n) =>
    tidy(
      s.tracks[0],
      findUntidy(t, { doubles: n % 50, short: n % 30, soft: n % 60, strays: 12, overlaps: true }, timeOf(s).tempo),
    ),
  copy: (s, t, n) => {
    const added = addNotes(s, s.tracks[0].id, copiesOf(s.tracks[0], t, (n % 30_000) - 100));
    return added && 'edit' in added ? added.edit : added;
  },
};

const anyCase = fc.record({
  s: anySongAtAll,
  which: fc.array(fc.nat(23), { minLength: 1, maxLength: 12 }),
  side: fc.constantFrom<Side>('played', 'corrected'),
  n: fc.nat(10_000),
});

function notesOf(s: Song): Note[] {
  return s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes));
}

const places = (s: Song) => {
  const { start, end, velocity } = treatPart(part(s), s);
  return part(s).notes.map((n, i) => ({ id: n.id, start: start[i], length: end[i] - start[i], velocity: velocity[i] }));
};

describe('shaping notes', () => {
  it.each(Object.keys(SHAPES))('%s: fits any song, is undone to the byte, and keeps the song whole', (name) => {
    fc.assert(
      fc.property(anyCase, ({ s, which, side, n }) => {
        const ids = which.flatMap((w) => notesOf(s).at(w)?.id ?? []);
        const taken = takeUp(s, s.tracks[0], [...new Set(ids)], side);
        const shaped = SHAPES[name](s, taken, n, side);
        if (shaped === null) return;
        if (isProblem(shaped)) {
          expect(shaped.problem).toMatch(/\.$/);
          return;
        }
        const read = readEdit(shaped) as Edit;
        const done = applyEdit(s, read);
        if (isProblem(done)) throw new Error(done.problem);
        expect(songFault(done.song)).toBeNull();
        const back = applied(done.song, done.inverse).song;
        expect(JSON.stringify(back)).toBe(JSON.stringify(s));
        // What was played is kept with every note that is still there.
        const takes = new Map(notesOf(s).map((o) => [o.id, takeOf(o)]));
        for (const now of notesOf(done.song)) {
          const take = takes.get(now.id);
          if (take) expect(takeOf(now)).toEqual(take);
        }
        // A file of it can be written and read.
        readSmf(writeSmf(done.song, perform(done.song, 'corrected')), 'any');
      }),
      { numRuns: 35 },
    );
  });

  it('any mix of it is undone to the byte, one by one', () => {
    fc.assert(
      fc.property(
        anySongAtAll,
        fc.array(fc.tuple(fc.constantFrom(...Object.keys(SHAPES)), fc.nat(10_000), fc.nat(23)), { maxLength: 8 }),
        (s, steps) => {
          let now = s;
          const back: (() => void)[] = [];
          for (const [name, n, w] of steps) {
            const ids = notesOf(now)
              .filter((_, i) => (i + w) % 2 === 0)
              .map((o) => o.id);
            const shaped = SHAPES[name](now, takeUp(now, now.tracks[0], ids, 'corrected'), n, 'corrected');
            if (shaped === null || isProblem(shaped)) continue;
            const before = now;
            const { song: next, inverse } = applied(now, shaped);
            now = next;
            back.unshift(() => {
              now = applied(now, inverse).song;
              expect(JSON.stringify(now)).toBe(JSON.stringify(before));
            });
          }
          for (const undo of back) undo();
        },
      ),
      { numRuns: 80 },
    );
  });
});

describe('a move', () => {
  it('puts each note as far from where it is seen, as far as the group has room', () => {
    fc.assert(
      fc.property(anyCase, fc.integer({ min: -9, max: 9 }), ({ s, which, side, n }, rows) => {
        const ids = [...new Set(which.flatMap((w) => notesOf(s).at(w)?.id ?? []))];
        const taken = takeUp(s, s.tracks[0], ids, side);
        if (taken.length === 0) return;
        const pitches = taken.map((t) => t.note.pitch);
        const by = Math.max(n - 5000, -Math.min(...taken.map((t) => t.start)));
        const up = Math.min(127 - Math.max(...pitches), Math.max(rows, -Math.min(...pitches)));
        const name = `${by === 0 ? 'Change the pitch of' : 'Move'} ${counted(taken.length, 'note')}`;
        const one = ({ start, note: { pitch } }: Taken) => ({ start: start + by, pitch: pitch + up });
        const moved = move(s, s.tracks[0], ids, side, { ticks: n - 5000, rows, pitches: ALL });
        expect(moved).toEqual(by === 0 && up === 0 ? null : reshape(name, s.tracks[0], taken, one));
      }),
      { numRuns: 200 },
    );
  });
});

describe('what notes span', () => {
  it('is told by their ids as it is by the notes that are taken up', () => {
    fc.assert(
      fc.property(anyCase, ({ s, which, side }) => {
        const ids = [...new Set(which.flatMap((w) => notesOf(s).at(w)?.id ?? []))];
        const taken = takeUp(s, s.tracks[0], ids, side);
        const pitches = taken.map((t) => t.note.pitch);
        expect(spanOfIds(s, s.tracks[0], ids, side)).toEqual(
          taken.length === 0
            ? null
            : {
                ...spanOf(taken),
                pitches: [...new Set(pitches)].sort((a, b) => a - b),
                count: taken.length,
                pinned: taken.filter((t) => t.note.exception?.kind === 'pinned').length,
                parts: [...new Set(taken.map((t) => t.part))],
              },
        );
      }),
    );
  });
});

describe('what is put somewhere stays there', () => {
  const base = song([note(0, 30), note(1, 500), note(2, 950, { pitch: 62 })]);
  const take = (s: Song, ids: number[], side: Side = 'corrected') => takeUp(s, s.tracks[0], ids, side);

  it('without a treatment its own place changes; under one it is pinned where it was seen', () => {
    const free = after(base, move(base, base.tracks[0], [1], 'corrected', { ticks: -20, rows: 0, pitches: ALL }));
    expect(part(free).notes[1]).toMatchObject({ start: 480, take: { start: 500 } });
    expect(part(free).notes[1].exception).toBeUndefined();
    const quantized = treated(base, { quantize: { on: true, grid: grid(8), starts: true, strength: 1 } });
    const moved = after(
      quantized,
      move(quantized, quantized.tracks[0], [1], 'corrected', { ticks: 100, rows: 0, pitches: ALL }),
    );
    // It lay on the line at 480.
    expect(part(moved).notes[1]).toMatchObject({ start: 500, exception: { kind: 'pinned', start: 580 } });
    expect(places(moved)[1].start).toBe(580);
  });

  it('a velocity is changed without pinning the note in time, unless a stage changes velocities', () => {
    const quantized = treated(base, { quantize: { on: true, starts: true } });
    const louderOne = after(quantized, louder(quantized.tracks[0], take(quantized, [1]), 10));
    expect(part(louderOne).notes[1]).toMatchObject({ velocity: 90, take: { velocity: 80 } });
    expect(part(louderOne).notes[1].exception).toBeUndefined();
    const levelled = treated(base, { velocity: { on: true, fixed: 64 } });
    const drawn = after(levelled, louder(levelled.tracks[0], take(levelled, [1]), 10));
    expect(places(drawn)[1].velocity).toBe(74);
  });

  it('a group that is moved stops as one at the song’s start and at the last key', () => {
    const high = song([note(0, 30, { pitch: 120 }), note(1, 500, { pitch: 126 })]);
    const moved = after(high, move(high, high.tracks[0], [0, 1], 'corrected', { ticks: -200, rows: 5, pitches: ALL }));
    expect(part(moved).notes.map((n) => [n.start, n.pitch])).toEqual([
      [0, 121],
      [470, 127],
    ]);
  });

  it('resizing in proportion keeps the ratio of lengths, by either end', () => {
    const two = song([note(0, 0, { length: 400 }), note(1, 960, { length: 200 })]);
    const taken = take(two, [0, 1]);
    const longer = after(two, resize(two.tracks[0], taken, { edge: 'end', by: 200, held: taken[0] }));
    expect(part(longer).notes.map((n) => n.length)).toEqual([600, 300]);
    const start = after(two, resize(two.tracks[0], taken, { edge: 'start', by: 100, held: taken[0] }));
    expect(part(start).notes.map((n) => [n.start, n.length])).toEqual([
      [100, 300],
      [1010, 150],
    ]);
  });

  it('pieces of a cut sound where the note sounded, under a treatment too', () => {
    const quantized = treated(base, { quantize: { on: true, starts: true }, lag: { on: true } });
    const before = places(quantized)[1];
    const cut = after(
      quantized,
      cutNotes(quantized, quantized.tracks[0], take(quantized, [1]), ({ start }) => [start + 60]),
    );
    const pieces = places(cut).filter((p) => p.id === 1 || p.id > 2);
    expect(pieces.map((p) => [p.start, p.length])).toEqual([
      [before.start, 60],
      [before.start + 60, before.length - 60],
    ]);
    const joined = after(
      cut,
      joinNotes(
        cut.tracks[0],
        take(
          cut,
          pieces.map((p) => p.id),
        ),
      ),
    );
    expect(places(joined)).toEqual(places(quantized));
  });

  it('legato reaches the next chord and leaves a chord’s own notes alone', () => {
    const chords = song([note(0, 0), note(1, 20, { pitch: 64 }), note(2, 960), note(3, 975, { pitch: 64 })]);
    const done = after(chords, legato(chords.tracks[0], take(chords, [0, 1, 2, 3]), timeOf(chords).tempo));
    expect(part(done).notes.map((n) => n.start + n.length)).toEqual([960, 960, 1160, 1175]);
  });

  it('contrast is about the mean, and level goes on top', () => {
    const loud = song([note(0, 0, { velocity: 60 }), note(1, 500, { velocity: 100 })]);
    const done = after(loud, levelAndContrast(loud.tracks[0], take(loud, [0, 1]), { level: 5, contrast: 0.5 }));
    expect(part(done).notes.map((n) => n.velocity)).toEqual([75, 95]);
  });

  it('into a scale: every pitch is in it, none moves by more than it has to', () => {
    // source: steps of the natural minor scale, any theory text
    const chromatic = song(Array.from({ length: 24 }, (_, i) => note(i, i * 240, { pitch: 48 + i })));
    const all = take(
      chromatic,
      part(chromatic).notes.map((n) => n.id),
    );
    const done = after(chromatic, intoScale(chromatic.tracks[0], all, 9, 'minor'));
    // A minor is the white keys.
    for (const n of part(done).notes) expect([0, 2, 4, 5, 7, 9, 11]).toContain(n.pitch % 12);
    for (const n of part(done).notes) expect(Math.abs(n.pitch - (48 + n.id))).toBeLessThanOrEqual(1);
    expect(Object.keys(SCALES).length).toBeGreaterThan(5);
  });

  it('what cannot be is refused in a sentence', () => {
    const [track] = base.tracks;
    for (const factor of [0, -1, NaN, Infinity, 1e9]) {
      expect(stretch(track, take(base, [0]), factor)).toEqual({ problem: expect.stringMatching(/^Choose a factor/) });
    }
    expect(transpose(track, take(base, [0, 1]), 90)).toEqual({
      problem: '2 notes would leave the keyboard. Choose fewer semitones.',
    });
    expect(joinNotes(track, take(base, [0, 2]))).toEqual({ problem: expect.stringContaining('Select two or more') });
    expect(addNotes(base, 't', new Array(100_001).fill(copiesOf(base.tracks[0], take(base, [0]), 0)[0]))).toEqual({
      problem: expect.stringContaining('at most 100,000'),
    });
  });
});

describe('bars that are parts of a tick long', () => {
  it('a part that grows to the end of such a bar, or begins in one, holds whole ticks', () => {
    // 1/64 at 1000 ticks a quarter: 62.5 ticks a bar.
    const meter = [{ tick: 0, numerator: 1, denominator: 64, clocks: 24, thirtySeconds: 8 }];
    const drawn = { start: 1000, length: 1, pitch: 60, velocity: 80, channel: 0 };
    const full = song([note(0, 0)], {}, { ppq: 1000, meter });
    for (const short of [full, { ...full, tracks: [{ ...full.tracks[0], parts: [] }] }]) {
      for (const start of [62, 63, 4062, 4063, 8061]) {
        const added = addNotes(short, 't', [{ ...drawn, start }]);
        if (!added || isProblem(added)) throw new Error('not added');
        const done = applyEdit(short, readEdit(added.edit) as Edit);
        if (isProblem(done)) throw new Error(done.problem);
        expect(songFault(done.song)).toBeNull();
        expect(notesOf(done.song).map((n) => n.start)).toContain(start);
      }
    }
  });
});

describe('looser and tighter', () => {
  const s = song(Array.from({ length: 40 }, (_, i) => note(i, i * 240 + ((i * 37) % 25), { velocity: 60 + (i % 9) })));
  const all = (now: Song) =>
    takeUp(
      now,
      now.tracks[0],
      part(now).notes.map((n) => n.id),
      'corrected',
    );
  const spread = (now: Song) => {
    const { after: offsets } = factsOf(part(now), now);
    return Math.sqrt(offsets.reduce((sum, ms) => sum + ms * ms, 0) / offsets.length);
  };

  it('looser goes on from where the notes are, by at most 3 ms a press; tighter ends on the lines', () => {
    let now = s;
    for (let k = 0; k < 12; k++) {
      const before = now;
      now = after(now, looser(now.tracks[0], all(now), linesOf(now), timeOf(now).tempo));
      part(now).notes.forEach((n) => {
        const was = part(before).notes.find((o) => o.id === n.id);
        expect(Math.abs(timeOf(s).tempo.between(was?.start ?? 0, n.start))).toBeLessThanOrEqual(3.3);
      });
    }
    expect(spread(now)).toBeGreaterThan(spread(s));
    for (let k = 0; k < 60; k++) now = after(now, tighter(now.tracks[0], all(now), linesOf(now)));
    expect(part(now).notes.every((n) => n.start % 240 === 0)).toBe(true);
    // Nothing is left to tighten: no step is made of it.
    expect(tighter(now.tracks[0], all(now), linesOf(now))).toBeNull();
  });
});

it('a selection that reaches over parts goes by the grid of each', () => {
  const whole = song([note(0, 0, { length: 500 }), note(1, 3840, { length: 500 })], {}, { nextId: 10 });
  const cut = applied(whole, { kind: 'part-cut', name: 'x', part: 'p', at: 1920, id: 10 }).song;
  const [left, right] = cut.tracks[0].parts;
  const quarters = treatment({ quantize: { grid: grid(4) } });
  const s = applied(cut, { kind: 'treatment', name: 'x', part: right.id, treatment: quarters }).song;
  const lengths = (now: Song) => now.tracks[0].parts.flatMap((p) => p.notes.map((n) => n.length));
  const both = (now: Song) => takeUp(now, now.tracks[0], [0, 1], 'corrected');
  expect(left.treatment.quantize.grid.value).toBe(16);
  expect(lengths(after(s, byStep(s.tracks[0], both(s), linesOf(s), 1)))).toEqual([740, 1460]);
  expect(lengths(after(s, toNextLine(s.tracks[0], both(s), linesOf(s))))).toEqual([720, 960]);
  expect(lengths(after(s, cutAtLines(s, s.tracks[0], both(s), linesOf(s))))).toEqual([240, 240, 20, 500]);
});
