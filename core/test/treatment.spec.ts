import fc from 'fast-check';
import { parseGrid, type Grid } from '@early-sparrow/core/grid';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { findPart, type Note, type Song } from '@early-sparrow/core/song';
import { corrected, factsOf, noteReports, perform, reportPart, treatPart } from '@early-sparrow/core/treatment';
import { withEvents, note, part, song, treated, type Stages } from './build';

const starts = (s: Song) => [...treatPart(part(s), s).start];
const quantize = (text: string, more: Stages['quantize'] = {}): Stages => ({
  quantize: { on: true, grid: parseGrid(text), ...more },
});

/** Notes as a player might leave them: chords, repeated keys, overlaps and tiny drum notes included. */
const anyNotes = fc
  .array(
    fc.record({
      start: fc.integer({ min: 0, max: 16000 }),
      length: fc.oneof(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 1, max: 2500 })),
      pitch: fc.integer({ min: 60, max: 64 }),
      velocity: fc.integer({ min: 1, max: 127 }),
    }),
    { maxLength: 60 },
  )
  .map((list) => list.map((n, i) => note(i, n.start, n)));
const anyGrid = fc
  .constantFrom<string>('1/4', '1/8', '1/16', '1/8T', '1/8.', '1/16 5:4', '1/16+1/8T', '1/16 ~62%', '1/64')
  .map(parseGrid);

describe('strength', () => {
  it('goes that share of the way', () => {
    const s = song([note(0, 250), note(1, 460)]);
    expect(starts(treated(s, quantize('1/16', { strength: 1 })))).toEqual([240, 480]);
    expect(starts(treated(s, quantize('1/16', { strength: 0.5 })))).toEqual([245, 470]);
    expect(starts(treated(s, quantize('1/16', { strength: 0 })))).toEqual([250, 460]);
  });

  it('applied again and again leaves a half, a quarter, an eighth', () => {
    // common practice (no source)
    const s = song([note(0, 240 + 80)]);
    const left = [1, 2, 3].map((times) => starts(treated(s, quantize('1/16', { strength: 0.5, times })))[0] - 240);
    expect(left).toEqual([40, 20, 10]);
  });
});

describe('which notes move', () => {
  const s = song([
    note(0, 240 - 30),
    note(1, 480 + 10, { pitch: 61 }),
    note(2, 960 + 100, { pitch: 62 }),
    note(3, 1440, { pitch: 63 }),
  ]);
  it.each<[string, Stages['quantize'], number[]]>([
    ['early ones only', { direction: 'early' }, [240, 490, 1060, 1440]],
    ['late ones only', { direction: 'late' }, [210, 480, 960, 1440]],
    ['beyond a tolerance in ticks', { tolerance: { value: 10, unit: 'ticks' } }, [240, 490, 960, 1440]],
    [
      'beyond a tolerance in ms (30 ticks are 15.6 ms)',
      { tolerance: { value: 15.7, unit: 'ms' } },
      [210, 490, 960, 1440],
    ],
    ['within a reach in percent of half the gap', { reach: { value: 50, unit: 'percent' } }, [240, 480, 1060, 1440]],
    [
      'between both',
      { tolerance: { value: 10, unit: 'ticks' }, reach: { value: 50, unit: 'percent' } },
      [240, 490, 1060, 1440],
    ],
  ])('%s', (_, settings, expected) => expect(starts(treated(s, quantize('1/16', settings)))).toEqual(expected));

  it('says why the others stay', () => {
    const t = treated(
      s,
      quantize('1/16', { tolerance: { value: 10, unit: 'ticks' }, reach: { value: 50, unit: 'percent' } }),
    );
    expect(noteReports(part(t), t).map((n) => n.fate)).toEqual(['moved', 'close-enough', 'too-far', 'close-enough']);
    expect(reportPart(part(t), t)).toMatchObject({ moved: 1, left: { 'close-enough': 2, 'too-far': 1 } });
  });

  it('measures percent against the gap on the note’s own side of a mixed grid', () => {
    // 1/16+1/8T around 320: the gap before it is 80 ticks, after it 160
    const mixed = (start: number, percent: number) =>
      starts(song([note(0, start)], quantize('1/16+1/8T', { reach: { value: percent, unit: 'percent' } })))[0];
    expect(mixed(320 - 30, 76)).toBe(320);
    expect(mixed(320 - 30, 74)).toBe(290);
    expect(mixed(320 + 30, 38)).toBe(320);
    expect(mixed(320 + 30, 37)).toBe(350);
  });
});

describe('chords', () => {
  // 30 ms are 57.6 ticks at 120 BPM (source for the window: Goebl 2001, JASA 110:1)
  const chord = [note(0, 940), note(1, 960, { pitch: 64 }), note(2, 990, { pitch: 67 })];

  it('move as one to the line of their median', () => {
    expect(starts(song(chord, quantize('1/8')))).toEqual([960, 960, 960]);
    expect(starts(song(chord, quantize('1/8', { spread: 1 })))).toEqual([940, 960, 990]);
  });

  it('never chain a fast run', () => {
    const run = [0, 1, 2, 3, 4, 5].map((i) => note(i, i * 50, { pitch: 60 + i }));
    // The gap of 1/64 is 60 ticks, so only notes within 24 ticks are together
    expect(starts(song(run, quantize('1/64')))).toEqual([0, 60, 120, 180, 180, 240]);
  });

  it('are closed by a repeated key', () => {
    const s = song([note(0, 950), note(1, 970)], quantize('1/8'));
    expect(treatPart(part(s), s).groups[0].chords.count).toBe(2);
    expect(reportPart(part(s), s)).toMatchObject({ merges: 1, doubles: 1 });
  });
});

describe('grids that fit and grids that do not', () => {
  // common practice (no source)
  it('whole-note lines squash a part with movement onto the downbeats', () => {
    const s = song(
      [0, 960, 1920, 2880, 3840].map((t, i) => note(i, t)),
      quantize('1/1'),
    );
    expect(starts(s)).toEqual([0, 0, 3840, 3840, 3840]);
    expect(reportPart(part(s), s).merges).toBe(3);
  });

  it('sixteenths and eighth triplets together serve a part that mixes them', () => {
    const played = [0, 245, 475, 722, 955, 1284, 1590];
    expect(
      starts(
        song(
          played.map((t, i) => note(i, t)),
          quantize('1/16+1/8T'),
        ),
      ),
    ).toEqual([0, 240, 480, 720, 960, 1280, 1600]);
  });
});

describe('settling', () => {
  it('lets the first note of a take begin at the song’s start and keeps its end', () => {
    const s = song([note(0, 10, { length: 400 })], { push: { on: true, amount: { value: -40, unit: 'ticks' } } });
    const { start, end } = treatPart(part(s), s);
    expect([start[0], end[0]]).toEqual([0, 370]);
  });

  it('ends a note where its key starts again, but leaves overlaps as they were played', () => {
    const s = song([note(0, 200, { length: 250 }), note(1, 460, { length: 200 })], quantize('1/8', { strength: 1 }));
    const { start, end } = treatPart(part(s), s);
    expect([...start]).toEqual([0, 480]);
    expect(end[0]).toBeLessThanOrEqual(480);
    const played = song([note(0, 0, { length: 700 }), note(1, 480, { length: 700 })], quantize('1/8'));
    expect([...treatPart(part(played), played).end]).toEqual([700, 1180]);
  });

  it('drops the softer of a double only when asked', () => {
    const notes = [note(0, 470, { velocity: 50 }), note(1, 500, { velocity: 90 })];
    const count = (dropDoubles: boolean) => {
      const s = song(notes, { ...quantize('1/8'), settle: { dropDoubles } });
      return corrected(s)[0].notes.map((n) => n.velocity);
    };
    expect(count(false)).toEqual([50, 90]);
    expect(count(true)).toEqual([90]);
  });

  it('makes no new overlap of one key, no note before 0 and none without length', () => {
    fc.assert(
      fc.property(
        anyNotes,
        anyGrid,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: -80, max: 80 }),
        (notes, grid, strength, push) => {
          const s = song(notes, {
            quantize: { on: true, grid, strength },
            push: { on: true, amount: { value: push, unit: 'ticks' } },
            humanize: { on: true, start: 20, length: 30 },
          });
          const { columns, start, end } = treatPart(part(s), s);
          for (let i = 0; i < columns.count; i++) {
            expect(start[i]).toBeGreaterThanOrEqual(0);
            const changed = start[i] !== columns.start[i] || end[i] !== columns.end[i];
            if (changed) expect(end[i]).toBeGreaterThan(start[i]);
            for (let j = i + 1; j < columns.count; j++) {
              if (columns.pitch[i] !== columns.pitch[j] || start[i] === start[j]) continue;
              const before = columns.start[i] === columns.start[j] || columns.end[i] > columns.start[j];
              const [a, b] = start[i] < start[j] ? [i, j] : [j, i];
              if (!before) expect(end[a]).toBeLessThanOrEqual(start[b]);
            }
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});

describe('what holds for all notes', () => {
  it('with every stage off a part is exactly as it was', () => {
    fc.assert(
      fc.property(anyNotes, (notes) => {
        const s = song(notes);
        const result = treatPart(part(s), s);
        expect([...result.start]).toEqual(part(s).notes.map((n) => n.start));
        expect([...result.end]).toEqual(part(s).notes.map((n) => n.start + n.length));
        expect([...result.velocity]).toEqual(part(s).notes.map((n) => n.velocity));
      }),
    );
  });

  it('so it is with quantize alone at strength 0, whatever the spread', () => {
    fc.assert(
      fc.property(anyNotes, anyGrid, fc.double({ min: 0, max: 1, noNaN: true }), (notes, grid, spread) => {
        const s = song(notes, { quantize: { on: true, grid, strength: 0, spread } });
        expect(starts(s)).toEqual(part(s).notes.map((n) => n.start));
      }),
    );
  });

  it('full strength without limits puts every chord on a line, and again changes nothing', () => {
    fc.assert(
      fc.property(anyNotes, anyGrid, (notes, grid) => {
        const s = song(notes, { quantize: { on: true, grid } });
        const result = treatPart(part(s), s);
        const { line } = factsOf(part(s), s);
        result.start.forEach((start, i) => expect(start).toBe(Math.round(line[i])));
        const again = song(
          part(s).notes.map((n, i): Note => ({
            ...n,
            start: result.start[i],
            length: result.end[i] - result.start[i],
          })),
          {
            quantize: { on: true, grid },
          },
        );
        expect(starts(again)).toEqual(part(again).notes.map((n) => n.start));
      }),
    );
  });

  it('times n is strength 1 − (1 − q)ⁿ, and no chord ends further from its line than it was', () => {
    fc.assert(
      fc.property(
        anyNotes,
        anyGrid,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.integer({ min: 1, max: 8 }),
        (notes, grid, strength, times) => {
          const s = song(notes);
          const several = starts(treated(s, { quantize: { on: true, grid, strength, times } }));
          const once = starts(treated(s, { quantize: { on: true, grid, strength: 1 - (1 - strength) ** times } }));
          // Equal to the last tick: both are rounded once, from places that differ by floating point only.
          several.forEach((t, i) => expect(Math.abs(t - once[i])).toBeLessThanOrEqual(1));
          const t = treated(s, { quantize: { on: true, grid, strength, times } });
          const lines = factsOf(part(t), t).line;
          part(s).notes.forEach((n, i) => {
            expect(Math.abs(several[i] - lines[i])).toBeLessThanOrEqual(Math.abs(n.start - lines[i]) + 0.5);
          });
        },
      ),
    );
  });

  it('a corrected song that is written and read is the same song', () => {
    fc.assert(
      fc.property(anyNotes, anyGrid, fc.double({ min: 0, max: 1, noNaN: true }), (notes, grid, strength) => {
        const s = song(notes, { quantize: { on: true, grid, strength } });
        // Only what a file can hold: of one key, first-in first-out.
        const plain = readSmf(writeSmf(s, asPlayed(s)), 'x').song;
        const again = plain.tracks[0].parts[0]
          ? {
              ...plain,
              tracks: [{ ...plain.tracks[0], parts: [{ ...plain.tracks[0].parts[0], treatment: part(s).treatment }] }],
            }
          : plain;
        const written = readSmf(writeSmf(again, perform(again, 'corrected')), 'x').song;
        const key = (n: { start: number; end: number; pitch: number; velocity: number }) =>
          [n.start, n.pitch, n.end, n.velocity].join();
        const wanted = corrected(again).flatMap((t) => t.notes.map((n) => key({ ...n, pitch: n.note.pitch })));
        const got = written.tracks.flatMap((t) =>
          t.parts.flatMap((p) => p.notes.map((n) => key({ ...n, end: n.start + n.length }))),
        );
        expect(got.sort()).toEqual(wanted.sort());
      }),
      { numRuns: 300 },
    );
  });
});

describe('exceptions', () => {
  it('as played, pinned and own settings leave the treatment, and are not in its chords', () => {
    const base = song(
      [note(0, 250), note(1, 255, { pitch: 61 }), note(2, 490, { pitch: 62 }), note(3, 730, { pitch: 63 })],
      quantize('1/16'),
    );
    const own = {
      id: 'loose',
      name: 'Loose',
      treatment: part(treated(base, quantize('1/16', { strength: 0.5 }))).treatment,
    };
    const notes = part(base).notes.map((n): Note => {
      if (n.id === 1) return { ...n, exception: { kind: 'as-played' } };
      if (n.id === 2) return { ...n, exception: { kind: 'own', set: 'loose' } };
      if (n.id === 3) return { ...n, exception: { kind: 'pinned', start: 777, length: 10, velocity: 5 } };
      return n;
    });
    const s: Song = { ...base, tracks: [{ ...base.tracks[0], parts: [{ ...part(base), sets: [own], notes }] }] };
    expect(starts(s)).toEqual([240, 255, 485, 777]);
    expect(noteReports(part(s), s).map((n) => n.fate)).toEqual(['moved', 'as-played', 'moved', 'pinned']);
    const { velocity, end } = treatPart(part(s), s);
    expect([velocity[3], end[3]]).toEqual([5, 787]);
  });

  it('a part that is off sounds as played', () => {
    const s = song([note(0, 250)], quantize('1/16'));
    const off: Song = { ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), on: false }] }] };
    expect(starts(off)).toEqual([250]);
    expect(findPart(off, 'p')?.part.on).toBe(false);
  });
});

describe('other events', () => {
  const pedal = (tick: number, value: number, order: number) =>
    ({ tick, order, type: 'controller', channel: 0, controller: 64, value }) as const;
  const withPedal = (s: Song, ...events: ReturnType<typeof pedal>[]): Song => withEvents(s, events);

  it('a pedal follows the notes: pressed before a chord it stays before it', () => {
    const s = withPedal(
      song([note(0, 1000), note(1, 1900, { pitch: 62 })], quantize('1/4')),
      pedal(990, 127, 0),
      pedal(1880, 0, 1),
    );
    const [down, up] = corrected(s)[0].events;
    expect([down.tick, up.tick]).toEqual([950, 1899]);
  });

  it('a pedal never changes sides of a chord, and its down and up keep their order', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 8000 }), { minLength: 2, maxLength: 20 }),
        fc.uniqueArray(fc.integer({ min: 0, max: 8000 }), { minLength: 2, maxLength: 8 }),
        anyGrid,
        (places, presses, grid: Grid) => {
          const s = withPedal(
            song(
              places.map((t, i) => note(i, t, { pitch: 40 + i, length: 20 })),
              { quantize: { on: true, grid, chordMs: 0, strength: 0.9 } },
            ),
            ...[...presses].sort((a, b) => a - b).map((t, i) => pedal(t, i % 2 === 0 ? 127 : 0, i)),
          );
          const before = part(s).events;
          const after = corrected(s)[0].events;
          after.forEach((e, i) => i > 0 && expect(e.tick).toBeGreaterThan(after[i - 1].tick));
          const now = starts(s);
          part(s).notes.forEach((n, k) =>
            before.forEach((e, i) => {
              // Where chords changed order or met, sides have no meaning; a tick is the rounding.
              if (now.some((t, m) => m !== k && (t - now[k]) * (part(s).notes[m].start - n.start) <= 0)) return;
              if (e.tick < n.start) expect(after[i].tick).toBeLessThanOrEqual(now[k] + presses.length);
              if (e.tick > n.start) expect(after[i].tick).toBeGreaterThanOrEqual(now[k] - 1);
            }),
          );
        },
      ),
    );
  });
});

describe('equal starts', () => {
  it('stay together after a grace note of one of their keys', () => {
    const [kick, snare] = [{ pitch: 36 }, { pitch: 38 }];
    // The grace note comes 20 ms before the two, which are late by less than half a step.
    const s = song([note(0, 1000, snare), note(1, 1040, kick), note(2, 1040, snare)], {
      quantize: { on: true, grid: parseGrid('1/16') },
    });
    const { start } = treatPart(part(s), s);
    expect(start[1]).toBe(start[2]);
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: 0, max: 60 }), fc.integer({ min: 60, max: 63 })), {
          minLength: 2,
          maxLength: 12,
        }),
        (raw) => {
          const notes = raw.map(([at, pitch], i) => note(i, at * 12, { pitch, length: 5 }));
          const any = song(notes, { quantize: { on: true, grid: parseGrid('1/16') } });
          const treated = treatPart(part(any), any);
          const places = new Map<number, number>();
          part(any).notes.forEach((n, i) => {
            const at = places.get(n.start) ?? treated.start[i];
            places.set(n.start, at);
            expect(treated.start[i]).toBe(at);
          });
        },
      ),
    );
  });
});
