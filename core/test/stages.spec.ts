import fc from 'fast-check';
import { parseGrid } from '@early-sparrow/core/grid';
import { median } from '@early-sparrow/core/maths';
import { changeNotes } from '@early-sparrow/core/edit';
import { BUILT_IN_GROOVES, liftGroove, slotsPerBar } from '@early-sparrow/core/groove';
import { BUILT_IN_RECIPES, recipeFromJson, recipeToJson, RecipeFileError } from '@early-sparrow/core/recipe';
import { grooveFromJson, grooveToJson, grooveToMidi, GrooveFileError, readSmf } from '@early-sparrow/core/smf';
import {
  tempoOf,
  timeOf,
  GrooveSchema,
  keepNotes,
  returnToTake,
  type Lengths,
  type Song,
} from '@early-sparrow/core/song';
import { factsOf, treatPart } from '@early-sparrow/core/treatment';
import { applied, note, part, song, treated, type Stages } from './build';

const ends = (s: Song) => [...treatPart(part(s), s).end];
const starts = (s: Song) => [...treatPart(part(s), s).start];

describe('lag and push', () => {
  it('take away and add a constant time, in ms through a change of tempo', () => {
    // 120 BPM, from bar 2 on 60: 10 ms are 19.2 and 9.6 ticks
    const tempo = [
      { tick: 0, order: 0, usPerQuarter: 500_000 },
      { tick: 3840, order: 1, usPerQuarter: 1_000_000 },
    ];
    const s = song([note(0, 960), note(1, 4800)], { lag: { on: true, amount: { value: 10, unit: 'ms' } } }, { tempo });
    expect(starts(s)).toEqual([941, 4790]);
    const pushed = treated(s, { push: { on: true, amount: { value: -4, unit: 'ticks' } } });
    expect(starts(pushed)).toEqual([956, 4796]);
  });
});

describe('lengths', () => {
  const at = (
    mode: Lengths['mode'],
    more: Partial<Lengths> = {},
    notes = [note(0, 250, { length: 300 }), note(1, 720, { length: 100, pitch: 62 })],
  ) => ends(song(notes, { quantize: { on: true, grid: parseGrid('1/16') }, lengths: { on: true, mode, ...more } }));

  it.each<[string, Lengths['mode'], Partial<Lengths>, number[]]>([
    ['keep with their notes', 'none', {}, [540, 820]],
    ['stay where they end', 'none', { keep: 'end' }, [550, 820]],
    ['go to lines', 'line', {}, [480, 960]],
    ['half of the way', 'line', { strength: 0.5 }, [510, 890]],
    ['to whole steps, at least one', 'steps', {}, [480, 960]],
    ['to the next chord', 'legato', {}, [720, 820]],
    ['to the next chord less a gap', 'legato', { gap: { value: 20, unit: 'ticks' } }, [700, 820]],
    ['to a fixed length', 'fixed', { fixed: 0.25 }, [480, 960]],
    ['to a fixed length but never shorter', 'fixed', { fixed: 0.25, shorten: false }, [540, 960]],
    ['to a fixed length but never longer', 'fixed', { fixed: 0.25, lengthen: false }, [480, 820]],
    ['to a grid of their own', 'line', { grid: parseGrid('1/4') }, [960, 960]],
  ])('%s', (_, mode, more, expected) => expect(at(mode, more)).toEqual(expected));

  it('to the next chord: both chords of a merge reach it', () => {
    const merging = [note(0, 450), note(1, 530, { pitch: 62 }), note(2, 950, { pitch: 64, length: 100 })];
    expect(at('legato', {}, merging)).toEqual([960, 960, 1060]);
  });

  it('are not shortened below the least length, but what was played shorter stays so', () => {
    const notes = [note(0, 0, { length: 200 }), note(1, 960, { length: 10, pitch: 62 })];
    expect(at('fixed', { fixed: 1 / 256, min: 1 / 32 }, notes)).toEqual([30, 970]);
  });

  it('a bass part sounds connected when ends meet the next start', () => {
    // common practice (no source)
    const walk = Array.from({ length: 16 }, (_, i) =>
      note(i, i * 480 + (i % 3) * 9, { pitch: 40 + (i % 5), length: 300 }),
    );
    const s = song(walk, {
      quantize: { on: true, grid: parseGrid('1/8') },
      humanize: { on: true, start: 8 },
      lengths: { on: true, mode: 'legato' },
    });
    const { start, end } = treatPart(part(s), s);
    for (let i = 0; i + 1 < start.length; i++) expect(end[i]).toBe(start[i + 1]);
  });

  it('swing does not bend the lines for ends unless wished', () => {
    const swung = (followSwing: boolean) =>
      ends(
        song([note(0, 0, { length: 230 })], {
          quantize: { on: true, grid: parseGrid('1/16 ~75%') },
          lengths: { on: true, mode: 'line', followSwing },
        }),
      );
    expect(swung(false)).toEqual([240]);
    expect(swung(true)).toEqual([360]);
  });
});

describe('velocity', () => {
  const notes = [note(0, 0, { velocity: 40 }), note(1, 960, { velocity: 80 }), note(2, 1920, { velocity: 120 })];
  const of = (velocity: Stages['velocity']) => [
    ...treatPart(
      part(song(notes, { velocity: { on: true, ...velocity } })),
      song(notes, { velocity: { on: true, ...velocity } }),
    ).velocity,
  ];
  it('scales about the mean, levels, fixes, limits and accents, always 1 to 127', () => {
    expect(of({ scale: 0 })).toEqual([80, 80, 80]);
    expect(of({ scale: 0.5 })).toEqual([60, 80, 100]);
    expect(of({ level: 20 })).toEqual([60, 100, 127]);
    expect(of({ level: -100 })).toEqual([1, 1, 20]);
    expect(of({ fixed: 99 })).toEqual([99, 99, 99]);
    expect(of({ low: 70, high: 90 })).toEqual([70, 80, 90]);
    expect(of({ accents: [{ beat: 2, add: 10 }] })).toEqual([40, 90, 120]);
  });
});

describe('grooves', () => {
  it('built-in ones are whole bars of sound values with names of their own', () => {
    expect(BUILT_IN_GROOVES.length).toBeGreaterThanOrEqual(12);
    expect(new Set(BUILT_IN_GROOVES.map((g) => g.groove.name)).size).toBe(BUILT_IN_GROOVES.length);
    for (const { groove } of BUILT_IN_GROOVES) {
      expect(GrooveSchema.parse(groove)).toEqual(groove);
      expect(slotsPerBar(groove)).toBe(groove.value);
    }
  });

  it('lifting what a groove made gives the groove back', () => {
    const time = timeOf(song([]));
    for (const { groove } of BUILT_IN_GROOVES) {
      // A groove of even delay is a lag to a listener, so it is taken away when lifting.
      if (groove.name === 'Leaning forward') continue;
      const step = 3840 / groove.value;
      const notes = Array.from({ length: groove.value * 4 }, (_, i) => note(i, 3840 + i * step, { velocity: 80 }));
      const s = song(notes, {
        quantize: { on: true, grid: parseGrid(`1/${groove.value}`), groove: { groove, timing: 1, velocity: 1 } },
      });
      const r = treatPart(part(s), s);
      const share = 0.5 + groove.slots[1].offset / 2;
      const grid = {
        ...parseGrid(`1/${groove.value}`),
        swing: Math.abs(share - 0.5) > 0.03 ? Math.min(0.8, share) : 0.5,
      };
      const swings = groove.slots.every((slot, k) => Math.abs(slot.offset - groove.slots[k % 2].offset) < 1e-9);
      const lifted = liftGroove(
        { start: r.start, velocity: r.velocity },
        { name: 'x', grid: swings ? grid : parseGrid(`1/${groove.value}`), bars: 1, time },
      );
      // Feels are told from where their beats are; one with late backbeats comes back a little earlier as a whole.
      const beats = groove.slots.filter((_, k) => k % (groove.value / 4) === 0).map((slot) => slot.offset);
      lifted?.slots.forEach((slot, k) => {
        expect(slot.offset).toBeCloseTo(groove.slots[k].offset - median(beats), 1);
        expect(
          Math.abs(slot.velocity / slotMean(lifted.slots) - groove.slots[k].velocity / slotMean(groove.slots)),
        ).toBeLessThan(0.02);
      });
      expect(lifted?.slots.every((slot) => slot.count === 4)).toBe(true);
    }
  });
  const slotMean = (slots: readonly { velocity: number }[]) =>
    slots.reduce((sum, s) => sum + s.velocity, 0) / slots.length;

  it('a first slot ahead of the beat is heard before the bar, and at the song’s start waits for it', () => {
    const groove = BUILT_IN_GROOVES.find((g) => g.groove.name === 'Leaning forward')!.groove;
    const s = song([note(0, 5), note(1, 3845, { pitch: 62 })], {
      quantize: { on: true, groove: { groove, timing: 1, velocity: 0 } },
    });
    expect(starts(s)).toEqual([0, 3840 - 12]);
  });

  it('come back from JSON, and from a MIDI file as one note a slot', () => {
    for (const { groove } of BUILT_IN_GROOVES) {
      expect(grooveFromJson(grooveToJson(groove))).toEqual(groove);
      const { song: read } = readSmf(grooveToMidi(groove), 'x');
      const step = 3840 / groove.value;
      expect(part(read).notes.map((n) => n.start)).toEqual(
        groove.slots.map((slot, k) => Math.round(3840 + (k + slot.offset) * step)),
      );
    }
    expect(() => grooveFromJson('{"kind":"other"}')).toThrow(GrooveFileError);
    expect(() => grooveFromJson('no')).toThrow(/it is no JSON/);
  });
});

describe('recipes', () => {
  it('come back from their files, and others are refused', () => {
    for (const recipe of BUILT_IN_RECIPES) expect(recipeFromJson(recipeToJson(recipe))).toEqual(recipe);
    expect(() => recipeFromJson('{}')).toThrow(RecipeFileError);
  });
});

describe('keeping', () => {
  const notes = [note(0, 250), note(1, 490, { velocity: 33 }), note(2, 722)];
  const stages: Stages = { quantize: { on: true, grid: parseGrid('1/16') }, velocity: { on: true, fixed: 100 } };
  const base = song(notes, stages);
  const kept = () => {
    return keepNotes(part(base), [0, 1, 2], false, factsOf(part(base), base));
  };

  it('makes corrected notes their own and remembers the take; undo is exact', () => {
    const edit = changeNotes('Keep', part(base), kept());
    const { song: after, inverse } = applied(base, edit);
    expect(part(after).notes.map((n) => [n.start, n.velocity])).toEqual([
      [240, 100],
      [480, 100],
      [720, 100],
    ]);
    expect(part(after).notes[1].take).toEqual({ start: 490, length: 200, velocity: 33 });
    expect(applied(after, inverse).song).toEqual(base);
  });

  it('returns to the take, each property alone or all', () => {
    const some = kept();
    expect(
      returnToTake(some, { starts: true, lengths: false, velocities: false }).map((n) => [n.start, n.velocity]),
    ).toEqual([
      [250, 100],
      [490, 100],
      [722, 100],
    ]);
    const all = returnToTake(some, { starts: true, lengths: true, velocities: true });
    expect(all).toEqual(notes);
  });

  it('and returning is exact for any notes', () => {
    fc.assert(
      fc.property(fc.array(fc.integer({ min: 0, max: 9000 }), { maxLength: 30 }), (places) => {
        const s = song(
          places.map((t, i) => note(i, t, { pitch: 30 + i })),
          stages,
        );
        const all = keepNotes(part(s), [...part(s).notes.keys()], false, factsOf(part(s), s));
        const back = new Map(
          returnToTake(all, { starts: true, lengths: true, velocities: true }).map((n) => [n.id, n]),
        );
        for (const n of part(s).notes) expect(back.get(n.id) ?? all.find((k) => k.id === n.id)).toEqual(n);
      }),
    );
  });
});

describe('a share of an offset', () => {
  it('is of its time, not of its ticks, where the tempo changes in between', () => {
    // 120 BPM up to tick 960, 60 BPM from there on; the note lies 100 ticks before the line at 960 by the first tempo.
    const tempo = [
      { tick: 0, usPerQuarter: 500_000 },
      { tick: 960, usPerQuarter: 1_000_000 },
    ];
    const s = song(
      [note(0, 860), note(1, 1060)],
      { quantize: { on: true, strength: 0.5, grid: parseGrid('1/4') } },
      { tempo },
    );
    const { start } = treatPart(part(s), s);
    expect([...start]).toEqual([910, 1010]);
    // A shift puts the line where the tempo changes between it and the note.
    const shifted = song(
      [note(0, 860)],
      { quantize: { on: true, strength: 0.5, grid: { ...parseGrid('1/4'), shift: { value: 100, unit: 'ticks' } } } },
      { tempo },
    );
    const map = tempoOf(shifted);
    const [before, after, line] = [860, treatPart(part(shifted), shifted).start[0], 1060].map((t) => map.toMs(t));
    expect(line - after).toBeCloseTo((line - before) / 2, 0);
  });
});
