import fc from 'fast-check';
import { GRID_VALUES, SWING_MAX, SWING_MIN, type Grid } from '@early-sparrow/core/grid';
import type { Groove, Note, PartEvent, Song, Treatment } from '@early-sparrow/core/song';
import { newPart, newSong, newTrack } from '@early-sparrow/core/song';

// Everything that the schemas accept, their ends and odd combinations included.

const share = fc.oneof(fc.constantFrom(0, 1), fc.double({ min: 0, max: 1, noNaN: true }));
const between = (min: number, max: number) => fc.oneof(fc.constantFrom(min, max), fc.double({ min, max, noNaN: true }));
const amount = fc.record({
  value: fc.oneof(
    { weight: 4, arbitrary: fc.integer({ min: -80, max: 80 }) },
    { weight: 1, arbitrary: between(-60_000, 60_000) },
  ),
  unit: fc.constantFrom('ms' as const, 'ticks' as const),
});
const limit = fc.record({
  value: fc.oneof(
    { weight: 4, arbitrary: fc.integer({ min: 0, max: 120 }) },
    { weight: 1, arbitrary: between(0, 60_000) },
  ),
  unit: fc.constantFrom('ms' as const, 'ticks' as const, 'percent' as const),
});
const value = fc.constantFrom(...GRID_VALUES);
const ratio = fc.tuple(fc.integer({ min: 2, max: 15 }), fc.integer({ min: 1, max: 15 })).map(([n, m]) => ({ n, m }));
const shape = fc.oneof(fc.constantFrom('straight' as const, 'dotted' as const), ratio);

export const anyGridAtAll: fc.Arbitrary<Grid> = fc.record({
  value,
  shape,
  swing: fc.oneof(fc.constant(0.5), between(SWING_MIN, SWING_MAX)),
  mix: fc.option(fc.record({ value, shape }), { nil: null }),
  shift: amount,
  restart: fc.constantFrom('bar' as const, 'song' as const),
});

export const anyGroove: fc.Arbitrary<Groove> = fc.record({
  kind: fc.constant('early-sparrow-groove' as const),
  version: fc.constant(1 as const),
  name: fc.constant('Any'),
  value,
  bars: fc.constantFrom(1 as const, 2 as const, 4 as const),
  slots: fc.array(fc.record({ offset: between(-1, 1), velocity: between(0, 8), count: fc.nat(9) }), {
    minLength: 1,
    maxLength: 40,
  }),
});

const mode = fc.constantFrom('stay' as const, 'follow' as const, 'quantize' as const);
const lean = fc.constantFrom('early' as const, 'late' as const, 'both' as const);
const velocity = fc.integer({ min: 1, max: 127 });

export const anyTreatment: fc.Arbitrary<Treatment> = fc.record({
  lag: fc.record({ on: fc.boolean(), amount }),
  quantize: fc.record({
    on: fc.boolean(),
    starts: fc.boolean(),
    grid: anyGridAtAll,
    groove: fc.option(fc.record({ groove: anyGroove, timing: between(0, 1.5), velocity: share }), { nil: null }),
    lines: fc.constantFrom('nearest' as const, 'follow' as const),
    strength: share,
    times: fc.integer({ min: 1, max: 16 }),
    direction: fc.constantFrom('both' as const, 'early' as const, 'late' as const),
    tolerance: limit,
    reach: fc.option(limit, { nil: null }),
    chordMs: between(0, 200),
    spread: share,
    pedal: mode,
    bend: mode,
    pressure: mode,
    controller: mode,
  }),
  lengths: fc.record({
    on: fc.boolean(),
    keep: fc.constantFrom('length' as const, 'end' as const),
    mode: fc.constantFrom('none' as const, 'line' as const, 'steps' as const, 'legato' as const, 'fixed' as const),
    grid: fc.option(anyGridAtAll, { nil: null }),
    strength: share,
    shorten: fc.boolean(),
    lengthen: fc.boolean(),
    followSwing: fc.boolean(),
    gap: amount,
    fixed: between(1 / 256, 64),
    min: between(0, 4),
  }),
  push: fc.record({ on: fc.boolean(), amount }),
  velocity: fc.record({
    on: fc.boolean(),
    scale: between(0, 2),
    level: between(-127, 127),
    fixed: fc.option(velocity, { nil: null }),
    low: velocity,
    high: velocity,
    accents: fc.array(fc.record({ beat: between(1, 64), add: between(-127, 127) }), { maxLength: 3 }),
  }),
  humanize: fc.record({
    on: fc.boolean(),
    seed: fc.oneof(fc.constantFrom(0, 0xffffffff), fc.nat()),
    shape: fc.constantFrom('even' as const, 'bell' as const, 'drift' as const),
    start: between(0, 500),
    startLean: lean,
    length: between(0, 500),
    lengthUnit: fc.constantFrom('percent' as const, 'ms' as const),
    lengthLean: lean,
    velocityMode: fc.constantFrom('percent' as const, 'range' as const),
    velocity: between(0, 100),
    low: velocity,
    high: velocity,
    together: share,
  }),
  settle: fc.record({ dropDoubles: fc.boolean() }),
});

const tempi = fc.uniqueArray(
  fc.record({
    tick: fc.nat(12_000),
    usPerQuarter: fc.oneof(fc.integer({ min: 200_000, max: 2_000_000 }), between(1, 0xffffff).map(Math.round)),
  }),
  { maxLength: 4, selector: (t) => t.tick },
);
const meters = fc.uniqueArray(
  fc.record({
    tick: fc.nat(12_000),
    numerator: fc.oneof(fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 255 })),
    denominator: fc.constantFrom(1, 2, 4, 8, 16, 32, 64),
    clocks: fc.constant(24),
    thirtySeconds: fc.constant(8),
  }),
  { maxLength: 4, selector: (m) => m.tick },
);
const byTick = <T extends { tick: number }>(list: T[]) => [...list].sort((a, b) => a.tick - b.tick);

const anyNote = fc.record({
  start: fc.nat(9000),
  length: fc.oneof(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 1, max: 1500 })),
  pitch: fc.integer({ min: 60, max: 63 }),
  velocity,
  channel: fc.constantFrom(0, 0, 0, 9),
  muted: fc.constantFrom(true, undefined, undefined, undefined),
  exception: fc.option(
    fc.oneof(
      fc.constantFrom<NonNullable<Note['exception']>>(
        { kind: 'as-played' },
        { kind: 'dropped' },
        { kind: 'own', set: 'own1' },
      ),
      fc
        .record({ start: fc.nat(12_000), length: fc.integer({ min: 1, max: 700 }) })
        .map((at): NonNullable<Note['exception']> => ({ kind: 'pinned', velocity: 70, ...at })),
    ),
    { freq: 4, nil: undefined },
  ),
});
const anyEvent = fc
  .record({ tick: fc.nat(12_000), value: fc.nat(127), type: fc.nat(3) })
  .map(
    ({ tick, value: v, type }): PartEvent =>
      [
        { type: 'controller', controller: 64, channel: 0, tick, value: v } as const,
        { type: 'bend', channel: 0, tick, value: v * 9 } as const,
        { type: 'pressure', channel: 9, tick, value: v } as const,
        { type: 'controller', controller: 11, channel: 0, tick, value: v } as const,
      ][type],
  );

/** A song of one track with one or two parts under any treatments, with any tempi and meters. */
export const anySongAtAll: fc.Arbitrary<Song> = fc
  .record({
    notes: fc.array(anyNote, { maxLength: 24 }),
    events: fc.array(anyEvent, { maxLength: 8 }),
    treatments: fc.tuple(anyTreatment, anyTreatment, anyTreatment),
    tempi,
    meters,
    border: fc.option(fc.integer({ min: 1, max: 9000 }), { nil: null }),
    on: fc.tuple(fc.boolean(), fc.constantFrom(true, true, false)),
    ppq: fc.constantFrom(960, 960, 1000, 24),
  })
  .map(({ notes, events, treatments, tempi: t, meters: m, border, on, ppq }): Song => {
    const all = notes
      .map(({ muted, exception, ...n }, i): Note => ({
        id: i,
        release: 64,
        ...n,
        ...(muted ? { muted } : {}),
        ...(exception ? { exception } : {}),
      }))
      .sort((a, b) => a.start - b.start || a.pitch - b.pitch || a.id - b.id);
    const beside = byTick(events);
    const sets = [{ id: 'own1', name: 'own settings', treatment: treatments[2] }];
    const at = border ?? 20_000;
    const parts = [
      newPart('p90', 'One', 0, at, {
        notes: all.filter((n) => n.start < at),
        events: beside.filter((e) => e.tick < at),
        treatment: treatments[0],
        sets,
        on: on[0],
      }),
      newPart('p91', 'Two', at, at + 20_000, {
        notes: all.filter((n) => n.start >= at),
        events: beside.filter((e) => e.tick >= at),
        treatment: treatments[1],
        sets,
        on: on[1],
      }),
    ];
    const track = newTrack('t92', 'Track', { parts: border === null ? parts.slice(0, 1) : parts });
    return { ...newSong('Any', ppq), tempo: byTick(t), meter: byTick(m), tracks: [track], nextId: 100 };
  });
