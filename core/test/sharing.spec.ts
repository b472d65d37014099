import fc from 'fast-check';
import type { Edit } from '@early-sparrow/core/edit';
import { byPlace, kinOf, notesAt, songEnd, type Note, type Song } from '@early-sparrow/core/song';
import { factsOf, marksOf, partColumns, treatPart } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { applied, note, part, song } from './build';

/** What becomes of a note; null takes it away. */
type Becomes = (note: Note) => Note | null;

const pinned = (n: Note, by: number): Note => ({
  ...n,
  exception: { kind: 'pinned', start: n.start + by, length: n.length, velocity: 70 },
});
const BECOMES: Readonly<Record<string, (by: number) => Becomes>> = {
  velocity: (by) => (n) => ({ ...n, velocity: 1 + ((n.velocity + by) % 127) }),
  length: (by) => (n) => ({ ...n, length: n.length + by }),
  start: (by) => (n) => ({ ...n, start: n.start + by }),
  moved: (by) => (n) => ({
    ...n,
    start: n.start + 31 * by,
    take: n.take ?? { start: n.start, length: n.length, velocity: n.velocity },
  }),
  take: (by) => (n) => ({ ...n, take: { start: n.start + by, length: n.length, velocity: n.velocity } }),
  pitch: (by) => (n) => ({ ...n, pitch: (n.pitch + by) % 128 }),
  channel: () => (n) => ({ ...n, channel: (n.channel + 1) % 16 }),
  pin: (by) => (n) => pinned(n, 9 * by),
  own: () => (n) => ({ ...n, exception: { kind: 'own', set: 'own1' } }),
  free:
    () =>
    ({ exception: _gone, ...n }) =>
      n,
  muted: () => (n) => ({ ...n, muted: true }),
  gone: () => () => null,
  copied: () => (n) => ({ ...n }),
};

/** One change of some notes of the first part. */
interface Step {
  readonly what: string;
  readonly which: readonly number[];
  readonly by: number;
  /** Whether it is made of the song at first, as each step of a drag is, and not of the last one. */
  readonly again: boolean;
  /** Whether notes come in too. */
  readonly more: boolean;
}

const anyStep: fc.Arbitrary<Step> = fc.record({
  what: fc.constantFrom(...Object.keys(BECOMES)),
  which: fc.oneof({ weight: 4, arbitrary: fc.array(fc.nat(23), { maxLength: 4 }) }, fc.constant([...Array(24).keys()])),
  by: fc.integer({ min: 1, max: 40 }),
  again: fc.boolean(),
  more: fc.constantFrom(false, false, false, true),
});

function edit(s: Song, { what, which, by, more }: Step): Edit {
  const some = new Set(which);
  const chosen = part(s).notes.filter((_, i) => some.has(i));
  const changed = chosen.flatMap((n) => BECOMES[what](by)(n) ?? []);
  const fresh = more ? [note(s.nextId, 40 * by), note(s.nextId + 1, 40 * by + 7, { pitch: 61 })] : [];
  return { kind: 'notes', name: what, part: part(s).id, remove: chosen.map((n) => n.id), add: [...changed, ...fresh] };
}

/** The same song, of which nobody remembers anything. */
function anew(s: Song): Song {
  const tracks = s.tracks.map((t) => ({ ...t, parts: t.parts.map((p) => ({ ...p, notes: p.notes.slice() })) }));
  return { ...s, tracks };
}

/** All that is known of a song's notes. */
function knownOf(s: Song): unknown {
  const parts = s.tracks[0].parts.map((p) => {
    const { treated, chords, lines: _lines, ...columns } = factsOf(p, s);
    const { columns: own, start, end, velocity, settled, groups } = treated;
    const marks = marksOf(p);
    return { chords, columns, own, start, end, velocity, settled, groups, marks };
  });
  return { parts, end: songEnd(s) };
}

const anySong = anySongAtAll
  .filter((s) => s.tracks.length > 0 && s.tracks[0].parts.length > 0)
  .map((s) => ({ ...s, nextId: 100 }));

describe('what is remembered from the notes before', () => {
  it('is what would be found anew, whatever changed between them', () => {
    fc.assert(
      fc.property(anySong, fc.array(anyStep, { minLength: 1, maxLength: 5 }), (s, steps) => {
        knownOf(s);
        let last = s;
        for (const step of steps) {
          const from = step.again ? s : last;
          last = applied(from, edit(from, step)).song;
          expect(knownOf(last)).toEqual(knownOf(anew(last)));
        }
      }),
      { numRuns: 500 },
    );
  });

  it('is what undo finds, too', () => {
    fc.assert(
      fc.property(anySong, anyStep, (s, step) => {
        const before = knownOf(s);
        const { song: after, inverse } = applied(s, edit(s, step));
        knownOf(after);
        expect(knownOf(applied(after, inverse).song)).toEqual(before);
      }),
      { numRuns: 200 },
    );
  });

  it('are the very columns, but that which changed', () => {
    const s = song([note(0, 0), note(1, 960), note(2, 1000)], { quantize: { on: true } });
    const before = factsOf(part(s), s);
    const step: Step = { what: 'velocity', which: [0, 1, 2], by: 0, again: false, more: false };
    const louder = applied(s, edit(s, step)).song;
    const [was, now] = [partColumns(part(s)), partColumns(part(louder))];
    expect(now.start).toBe(was.start);
    expect(now.end).toBe(was.end);
    expect([...now.velocity]).toEqual([81, 81, 81]);
    const after = factsOf(part(louder), louder);
    expect(after.chords).toBe(before.chords);
    // The grid is not drawn anew for them.
    expect(after.lines).toBe(before.lines);
    expect(after.treated.groups[0].chords).toBe(before.treated.groups[0].chords);
    const later = applied(s, edit(s, { ...step, what: 'start', by: 1 })).song;
    expect(factsOf(part(later), later).chords).not.toBe(before.chords);
    expect([...treatPart(part(later), later).columns.start]).toEqual([1, 961, 1001]);
  });

  it('are all columns and chords of the others while a pin is dragged', () => {
    const s = song([note(0, 0), note(1, 960), note(2, 1000)], { quantize: { on: true } });
    const pin = (by: number) => applied(s, edit(s, { what: 'pin', which: [1], by, again: true, more: false })).song;
    const [first, second] = [pin(1), pin(2)];
    const [a, b] = [factsOf(part(first), first), factsOf(part(second), second)];
    expect(b.treated.columns).toBe(a.treated.columns);
    expect(b.treated.groups[0].chords).toBe(a.treated.groups[0].chords);
    expect([...a.now]).toEqual([0, 969, 960]);
    expect([...b.now]).toEqual([0, 978, 960]);
  });

  it('is not what settling asked of notes that are louder now, or muted', () => {
    const on = { quantize: { on: true, strength: 1 }, settle: { dropDoubles: true } };
    const change = (s: Song, what: string, which: number, by = 0) =>
      applied(s, edit(s, { what, which: [which], by, again: true, more: false })).song;
    // Two notes of a key come to one line: the softer one is dropped, and it is the other one once that is louder.
    const double = song([note(0, 950, { velocity: 60 }), note(1, 970, { velocity: 80 })], on);
    expect([...factsOf(part(double), double).silent]).toEqual([1, 0]);
    const louder = change(double, 'velocity', 0, 40);
    expect([...factsOf(part(louder), louder).silent]).toEqual([0, 1]);
    // A note that is put on its line runs into the next of its key, and is cut where that one sounds.
    const early = song([note(0, 900, { length: 740 }), note(1, 1690)], on);
    expect(factsOf(part(early), early).nowEnd[0]).toBe(1680);
    const muted = change(early, 'muted', 1);
    expect(factsOf(part(muted), muted).nowEnd[0]).toBe(1700);
  });

  it('is found for notes of several parts that change in turns', () => {
    const s = song([note(0, 0), note(1, 960)], { quantize: { on: true } });
    const [one, two] = [s, song([note(7, 0), note(8, 960)])];
    const louder = (of: Song, by: number) =>
      applied(of, edit(of, { what: 'velocity', which: [0], by, again: true, more: false })).song;
    for (const by of [1, 2, 3]) {
      for (const of of [one, two]) {
        const { chords } = factsOf(part(of), of);
        const now = louder(of, by);
        expect(factsOf(part(now), now).chords).toBe(chords);
      }
    }
  });
});

describe('lists that hold nearly the same notes', () => {
  it('are what was made of the same list just before, and that list', () => {
    const s = song([note(0, 0), note(1, 960)]);
    const step = (by: number, from = s) =>
      applied(from, edit(from, { what: 'velocity', which: [0], by, again: true, more: false })).song;
    const [first, second] = [step(1), step(2)];
    const [base, one, two] = [s, first, second].map((of) => part(of).notes);
    expect(kinOf(base)).toEqual([]);
    expect(kinOf(one).map(({ list }) => list)).toEqual([base]);
    expect(kinOf(two)[0].list).toBe(one);
    expect(kinOf(two)[1].list).toBe(base);
    const after = step(3, second);
    expect(kinOf(part(after).notes)[0].list).toBe(two);
  });

  it('are in order, whatever notes changed, and hold the very same outside of where they differ', () => {
    fc.assert(
      fc.property(anySong, fc.array(anyStep, { minLength: 1, maxLength: 6 }), (s, steps) => {
        let last = s;
        for (const step of steps) {
          const from = step.again ? s : last;
          last = applied(from, edit(from, step)).song;
          const { notes } = part(last);
          expect(notes).toEqual([...notes].sort(byPlace));
          const kin = kinOf(notes);
          expect(kin.length).toBeGreaterThan(0);
          for (const { list, from: begin, end, endHere } of kin) {
            expect(begin).toBeLessThanOrEqual(Math.min(end, endHere));
            const outside = [...notes.slice(0, begin), ...notes.slice(end)];
            const there = [...list.slice(0, begin), ...list.slice(endHere)];
            expect(there.every((n, i) => n === outside[i]) && there.length === outside.length).toBe(true);
          }
        }
      }),
    );
  });
});

it('notes are found by their ids, few or many, far apart or not, named twice or not there', () => {
  const ids = fc.oneof(fc.nat(60), fc.nat(2 ** 31));
  fc.assert(
    fc.property(fc.uniqueArray(ids), fc.array(ids), fc.nat(), (all, others, seed) => {
      const list = all.map((id, i) => note(id, i));
      const asked = [...all.filter((_, i) => (i * 7919 + seed) % 5 === 0), ...others, ...others.slice(0, 1)];
      const wanted = new Set(asked);
      expect(notesAt(list, asked)).toEqual(list.flatMap((n, i) => (wanted.has(n.id) ? [i] : [])));
      // Of a long list few are asked in another way.
      const long = [...list, ...Array.from({ length: 200 }, (_, i) => note(2 ** 32 + i, 5000))];
      expect(notesAt(long, asked)).toEqual(long.flatMap((n, i) => (wanted.has(n.id) ? [i] : [])));
    }),
  );
});

it('notes are found by their ids where some took the places of others', () => {
  fc.assert(
    fc.property(fc.integer({ min: 2, max: 30 }), fc.array(fc.nat(29), { minLength: 1 }), fc.nat(), (n, some, turn) => {
      const s = song(Array.from({ length: n }, (_, i) => note(i, i * 100)));
      const remove = [...new Set(some.map((k) => k % n))];
      notesAt(part(s).notes, remove);
      // Each gets the place of another one that goes, or keeps its own.
      const add = remove.map((id, k) => note(id, remove[(k + turn) % remove.length] * 100));
      const { notes } = part(applied(s, { kind: 'notes', name: 'Swap', part: 'p', remove, add }).song);
      for (const { id } of notes) expect(notesAt(notes, [id])).toEqual([notes.findIndex((m) => m.id === id)]);
    }),
  );
});
