import fc from 'fast-check';
import { parseGrid } from '@early-sparrow/core/grid';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { newPart, type Note, type Song } from '@early-sparrow/core/song';
import { correctedTrack, factsOf, perform, treatPart, treatTrack } from '@early-sparrow/core/treatment';
import { note, part, song } from './build';

const spans = (s: Song) => {
  const { start, end } = treatPart(part(s), s);
  return part(s).notes.map((n, i) => [n.id, start[i], end[i]]);
};
/** Start and length of each note in the file as another reader pairs them. */
const inFile = (s: Song) =>
  readSmf(writeSmf(s, perform(s, 'corrected')), 'x')
    .song.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => [n.start, n.length])))
    .sort((a, b) => a[0] - b[0] || a[1] - b[1]);
const pinned = (start: number, length: number): Partial<Note> => ({
  exception: { kind: 'pinned', start, length, velocity: 80 },
});

describe('settling goes by where notes lie now', () => {
  it('a note pinned back over another of its key cuts that one, and the file has these lengths', () => {
    const s = song([note(0, 0, { length: 400 }), note(1, 1000, { length: 400 }), note(2, 5000, pinned(100, 900))]);
    expect(spans(s)).toEqual([
      [0, 0, 100],
      [1, 1000, 1400],
      [2, 100, 1000],
    ]);
    expect(inFile(s)).toEqual([
      [0, 100],
      [100, 900],
      [1000, 400],
    ]);
  });

  it('a note pinned forward is cut where the next of its key begins', () => {
    const s = song([note(0, 0, pinned(2000, 900)), note(1, 1000), note(2, 2400)]);
    expect(spans(s)[0]).toEqual([0, 2000, 2400]);
  });

  it('muted notes stand in nobody’s way', () => {
    const s = song([note(0, 0, { length: 900 }), note(1, 700, { muted: true })], {
      push: { on: true, amount: { value: 9, unit: 'ticks' } },
    });
    expect(spans(s)[0]).toEqual([0, 9, 909]);
  });

  it('across the border of two parts too: overlaps and doubles', () => {
    const one = song([note(0, 900, { length: 400 })]);
    const push = song([], { push: { on: true, amount: { value: -240, unit: 'ticks' } } });
    const later = newPart('p2', 'Later', 3840, 7680, {
      treatment: part(push).treatment,
      notes: [note(5, 1440), note(6, 4000, { velocity: 99 })],
    });
    const [track] = one.tracks;
    const double = {
      ...later,
      notes: [note(5, 1440), note(7, 1140, { velocity: 20 })].sort((a, b) => a.start - b.start),
    };
    const with2 = (p: typeof later): Song => ({ ...one, tracks: [{ ...track, parts: [part(one), p] }], nextId: 9 });
    const [first, second] = treatTrack(with2(later).tracks[0], one);
    // The later part's first note now starts at 1200, inside the first part's note.
    expect([first.end[0], second.start[0]]).toEqual([1200, 1200]);
    expect(first.settled.cut).toEqual([0]);
    const [, doubles] = treatTrack(with2(double).tracks[0], one);
    expect([doubles.start[0], [...doubles.settled.doubles]]).toEqual([900, [0]]);
  });

  it('of doubles the loudest stays, and what came with it', () => {
    const at = (start: number, velocity: number, id: number) => note(id, start, { velocity, length: 50 });
    const grid = { quantize: { on: true, grid: parseGrid('1/4'), chordMs: 0 }, settle: { dropDoubles: true } };
    const s = song([at(940, 50, 0), at(970, 60, 1), at(940, 40, 2), at(970, 30, 3)], grid);
    const { settled } = treatPart(part(s), s);
    expect([...settled.doubles].map((i) => part(s).notes[i].id).sort()).toEqual([0, 2]);
    expect(
      correctedTrack(s.tracks[0], s)
        .notes.map((n) => n.note.id)
        .sort(),
    ).toEqual([1, 3]);
  });

  it('is not slowed down by many notes at one key and tick', () => {
    const notes = Array.from({ length: 40_000 }, (_, i) => note(i, i < 20_000 ? 0 : 240, { length: 480 }));
    const s = song(notes, { push: { on: true, amount: { value: 3, unit: 'ticks' } } });
    // Pair by pair this would take minutes.
    expect(treatPart(part(s), s).start[39_999]).toBe(243);
  });
});

describe('a written file', () => {
  it('has, of one key, the lengths that sound, whatever was drawn, pinned or moved over what', () => {
    const anyNotes = fc.array(
      fc.record({
        start: fc.nat(4000),
        length: fc.integer({ min: 1, max: 2500 }),
        pin: fc.option(fc.record({ start: fc.nat(4000), length: fc.integer({ min: 1, max: 2500 }) }), { nil: null }),
        ordered: fc.boolean(),
      }),
      { minLength: 1, maxLength: 14 },
    );
    fc.assert(
      fc.property(anyNotes, fc.boolean(), (list, on) => {
        const s = song(
          list.map(({ start, length, pin, ordered }, i) =>
            note(i, start, {
              length,
              ...(pin ? pinned(pin.start, pin.length) : {}),
              ...(ordered ? { order: [2 * i, 2 * i + 1] } : {}),
            }),
          ),
          { quantize: { on, grid: parseGrid('1/8') } },
        );
        const read = inFile(s);
        const sounding = perform(s, 'corrected')[0].notes;
        expect(read.map((n) => n[0])).toEqual(sounding.map((n) => n.start).sort((a, b) => a - b));
        // First-in first-out can say no more than this: of one key, who starts later ends no earlier.
        const ends = read.map(([start, length]) => start + length);
        expect(ends.every((e, i) => i === 0 || e >= ends[i - 1])).toBe(true);
        // Every end is the end of a note that sounds, never later than its own.
        const longest = new Map(sounding.map((n) => [n.start, 0]));
        for (const n of sounding) longest.set(n.start, Math.max(longest.get(n.start) ?? 0, n.end));
        read.forEach(([start], i) => expect(ends[i]).toBeLessThanOrEqual(longest.get(start) ?? 0));
      }),
      { numRuns: 400 },
    );
  });
});

describe('two notes of a key that came to start together', () => {
  it('are written with their own lengths and velocities, also once one of them is where it was by Keep', () => {
    const s = song([
      note(0, 0, { length: 2, velocity: 2, order: [0, 1] }),
      note(1, 0, { length: 1, velocity: 1, take: { start: 1, length: 0, velocity: 1 } }),
    ]);
    const read = readSmf(writeSmf(s, perform(s, 'corrected')), 'x').song.tracks[0].parts[0].notes;
    expect(read.map((n) => [n.length, n.velocity]).sort()).toEqual([
      [1, 1],
      [2, 2],
    ]);
  });
});

describe('events', () => {
  const pedal = (tick: number, value: number) =>
    ({ type: 'controller', controller: 64, channel: 0, tick, value }) as const;
  const with0 = (s: Song, ...events: ReturnType<typeof pedal>[]): Song => ({
    ...s,
    tracks: [{ ...s.tracks[0], parts: [{ ...part(s), events }] }],
  });
  const ticks = (s: Song) => correctedTrack(s.tracks[0], s).events.map((e) => e.tick);
  const quarters = { quantize: { on: true, grid: parseGrid('1/4') } };

  it('follow notes that are pinned or left as played, as they follow the others', () => {
    const s = with0(song([note(0, 1000), note(1, 1930, pinned(2130, 100)), note(2, 2900)], quarters), pedal(1900, 127));
    // Before the pinned note, which went 200 ticks later, the pedal goes along with it.
    expect(ticks(s)[0]).toBeGreaterThan(2000);
    expect(ticks(s)[0]).toBeLessThan(2130);
    const left = with0(
      song([note(0, 1000), note(1, 1930, { exception: { kind: 'as-played' } })], quarters),
      pedal(1929, 127),
    );
    expect(ticks(left)).toEqual([1929]);
  });

  it('are not dragged along by a single note that was pinned far away', () => {
    const notes = Array.from({ length: 12 }, (_, i) => note(i, i * 960 + 30, { pitch: 50 + i }));
    const far = notes.map((n) => (n.id === 3 ? { ...n, ...pinned(11_000, 100) } : n));
    const presses = [5000, 7000, 9000].map((t, i) => pedal(t, i % 2 ? 0 : 127));
    expect(ticks(with0(song(far, quarters), ...presses))).toEqual(ticks(with0(song(notes, quarters), ...presses)));
  });

  it('move once, with the part that owns them, though they come over its border', () => {
    const s = with0(
      song([note(0, 3800, { length: 20 })], { push: { on: true, amount: { value: 100, unit: 'ticks' } } }),
      pedal(3800, 127),
    );
    const later = newPart('p2', 'Later', 3840, 7680, {
      treatment: part(s).treatment,
      notes: [note(5, 5000)],
      events: [pedal(4900, 0)],
    });
    const both = { ...s, tracks: [{ ...s.tracks[0], parts: [part(s), later] }], nextId: 9 };
    expect(ticks(both)).toEqual([3900, 5000]);
  });
});

describe('facts', () => {
  it('tell of each note its line, offsets, chord, and what merged', () => {
    const grid = { quantize: { on: true, grid: parseGrid('1/4') } };
    const s = song(
      [note(0, 900), note(1, 910, { pitch: 64 }), note(2, 1100), note(3, 1900, { exception: { kind: 'as-played' } })],
      grid,
    );
    const facts = factsOf(part(s), s);
    expect([...facts.line]).toEqual([960, 960, 960, 1920]);
    expect([...facts.chord]).toEqual([0, 0, 1, 2]);
    expect([...facts.chords.merged]).toEqual([0, 1, 0]);
    expect([...facts.chords.treated]).toEqual([1, 1, 0]);
    expect(facts.before[2]).toBeCloseTo(72.9, 1);
    expect(facts.after[2]).toBe(0);
    expect(factsOf(part(s), s)).toBe(facts);
  });
});
