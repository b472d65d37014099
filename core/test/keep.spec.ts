import fc from 'fast-check';
import { keepEdit, returnEdit, type Edit } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import type { Exception, PartEvent, Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { applied, note, part, song, treatment, type Stages } from './build';

const bytes = (s: Song, which: 'played' | 'corrected') => [...writeSmf(s, perform(s, which))];
/** What sounds, note by note and event by event. */
const sounds = (s: Song) =>
  perform(s, 'corrected').map((t) => ({
    notes: t.notes.map((n) => [n.note.id, n.start, n.end, n.velocity]).sort((a, b) => a[0] - b[0]),
    events: t.events.map((e) => `${e.tick} ${e.event.type}`).sort(),
  }));
/** The notes and events of the written file, read back. */
const heard = (s: Song) =>
  readSmf(writeSmf(s, perform(s, 'corrected')), 'x').song.tracks.map((t) => ({
    notes: t.parts.flatMap((p) => p.notes.map((n) => [n.start, n.pitch, n.length, n.velocity].join())).sort(),
    events: [...t.setup, ...t.parts.flatMap((p) => p.events)]
      .filter((e) => e.type !== 'stray-off')
      .map((e) => [e.tick, e.type])
      .sort(),
  }));
const keep = (s: Song, ids: readonly number[] | null): Song => {
  const edit = keepEdit(s, 'p', ids);
  return edit ? applied(s, edit).song : s;
};

const anyNotes = fc.array(
  fc.record({
    start: fc.integer({ min: 0, max: 9000 }),
    length: fc.oneof(fc.integer({ min: 0, max: 3 }), fc.integer({ min: 1, max: 1500 })),
    pitch: fc.integer({ min: 60, max: 64 }),
    velocity: fc.integer({ min: 1, max: 127 }),
    exception: fc.option(
      fc.oneof(
        fc.constant<Exception>({ kind: 'as-played' }),
        fc.constant<Exception>({ kind: 'own', set: 'own1' }),
        fc
          .record({ start: fc.integer({ min: 0, max: 9000 }), length: fc.integer({ min: 1, max: 700 }) })
          .map((at): Exception => ({ kind: 'pinned', velocity: 70, ...at })),
      ),
      { freq: 3, nil: undefined },
    ),
  }),
  { minLength: 1, maxLength: 24 },
);
const share = fc.double({ min: 0, max: 1, noNaN: true });
const anyStages = fc.record({
  lag: fc.record({
    on: fc.boolean(),
    amount: fc.record({ value: fc.integer({ min: -60, max: 60 }), unit: fc.constant('ms' as const) }),
  }),
  quantize: fc.record({
    on: fc.boolean(),
    grid: fc.constantFrom('1/4', '1/8', '1/16', '1/8T', '1/16 ~62%', '1/16+1/8T').map(parseGrid),
    groove: fc.constantFrom(null, { groove: BUILT_IN_GROOVES[3].groove, timing: 1, velocity: 0.7 }),
    strength: share,
    spread: share,
    lines: fc.constantFrom('nearest' as const, 'follow' as const),
    direction: fc.constantFrom('both' as const, 'early' as const, 'late' as const),
    tolerance: fc.constantFrom({ value: 0, unit: 'ms' as const }, { value: 30, unit: 'percent' as const }),
    bend: fc.constantFrom('follow' as const, 'quantize' as const, 'stay' as const),
  }),
  lengths: fc.record({
    on: fc.boolean(),
    keep: fc.constantFrom('length' as const, 'end' as const),
    mode: fc.constantFrom('none' as const, 'line' as const, 'steps' as const, 'legato' as const, 'fixed' as const),
    strength: share,
  }),
  push: fc.record({
    on: fc.boolean(),
    amount: fc.record({
      value: fc.integer({ min: -40, max: 40 }),
      unit: fc.constantFrom('ms' as const, 'ticks' as const),
    }),
  }),
  velocity: fc.record({
    on: fc.boolean(),
    scale: fc.double({ min: 0, max: 2, noNaN: true }),
    level: fc.integer({ min: -30, max: 30 }),
  }),
  humanize: fc.record({
    on: fc.boolean(),
    start: fc.integer({ min: 0, max: 30 }),
    length: fc.integer({ min: 0, max: 60 }),
    velocity: fc.integer({ min: 0, max: 50 }),
  }),
  settle: fc.record({ dropDoubles: fc.boolean() }),
});
const anyEvents = fc.array(
  fc.record({ tick: fc.integer({ min: 0, max: 9000 }), value: fc.integer({ min: 0, max: 127 }), bend: fc.boolean() }),
  { maxLength: 8 },
);

const anySong = fc.record({ notes: anyNotes, stages: anyStages, own: anyStages, events: anyEvents }).map((a): Song => {
  const base = song(
    a.notes.map(({ exception, ...n }, i) =>
      note(i, n.start, { ...n, order: [2 * i, 2 * i + 1], ...(exception ? { exception } : {}) }),
    ),
    a.stages as Stages,
  );
  const events = a.events
    .sort((x, y) => x.tick - y.tick)
    .map(({ tick, value, bend }, i): PartEvent =>
      bend
        ? { type: 'bend', channel: 0, tick, order: 1000 + i, value }
        : { type: 'controller', controller: 64, channel: 0, tick, order: 1000 + i, value },
    );
  const [track] = base.tracks;
  const sets = [{ id: 'own1', name: 'own settings', treatment: treatment(a.own as Stages) }];
  return { ...base, tracks: [{ ...track, parts: [{ ...track.parts[0], sets, events }] }] };
});

describe('keep under several versions', () => {
  it('drops the versions that were made for the notes as played, and undo brings them back', () => {
    const one = song([note(0, 20), note(1, 260)], { quantize: { on: true } });
    const versions = {
      current: { id: 'v1', name: 'A' },
      others: [{ id: 'v2', name: 'B', treatment: treatment({ push: { on: true } }) }],
    };
    const s = { ...one, tracks: [{ ...one.tracks[0], parts: [{ ...part(one), versions }] }] };
    for (const ids of [null, [0]]) {
      const edit = keepEdit(s, 'p', ids)!;
      const done = applied(s, edit);
      expect(part(done.song).versions).toBeUndefined();
      expect(part(applied(done.song, done.inverse).song).versions).toEqual(versions);
    }
  });
});

describe('Keep', () => {
  it('of the whole part never changes what sounds, in the file that another reads too', () => {
    fc.assert(
      fc.property(anySong, (s) => {
        const kept = keep(s, null);
        expect(sounds(kept)).toEqual(sounds(s));
        expect(heard(kept)).toEqual(heard(s));
        expect(part(kept).treatment.quantize.on).toBe(false);
      }),
      { numRuns: 300 },
    );
  });

  it('of some notes never changes what sounds, for the others either', () => {
    fc.assert(
      fc.property(anySong, fc.array(fc.nat(23), { minLength: 1, maxLength: 6 }), (s, ids) => {
        const own = ids.filter((id) => id < part(s).notes.length);
        expect(sounds(keep(s, own))).toEqual(sounds(s));
      }),
      { numRuns: 300 },
    );
  });

  it('leaves the file as played as it was, twice kept too, and the take comes back to the byte', () => {
    fc.assert(
      fc.property(anySong, (s) => {
        const on: Edit = { kind: 'treatment', name: 'x', part: 'p', treatment: part(s).treatment };
        const twice = keep(applied(keep(s, null), on).song, null);
        expect(bytes(twice, 'played')).toEqual(bytes(s, 'played'));
        const back = returnEdit(twice, 'p', null, { starts: true, lengths: true, velocities: true });
        const returned = back ? applied(twice, back).song : twice;
        expect(
          bytes(
            {
              ...returned,
              tracks: returned.tracks.map((t) => ({ ...t, parts: t.parts.map((p) => ({ ...p, on: false })) })),
            },
            'corrected',
          ),
        ).toEqual(bytes(s, 'played'));
      }),
      { numRuns: 200 },
    );
  });

  it('is taken back to the byte by one undo', () => {
    fc.assert(
      fc.property(anySong, fc.constantFrom(null, [0]), (s, ids) => {
        const edit = keepEdit(s, 'p', ids);
        if (!edit) return;
        const { song: after, inverse } = applied(s, edit);
        expect(JSON.stringify(applied(after, inverse).song)).toBe(JSON.stringify(s));
      }),
      { numRuns: 100 },
    );
  });

  it('does not push twice: 10 ms stay 10 ms', () => {
    const s = song([note(0, 960)], { push: { on: true, amount: { value: 10, unit: 'ms' } } });
    expect(sounds(keep(s, null))[0].notes[0][1]).toBe(979);
    expect(sounds(keep(s, [0]))[0].notes[0][1]).toBe(979);
  });

  it('says how many notes hang together with those that are kept', () => {
    const s = song([note(0, 950), note(1, 970, { pitch: 64 }), note(2, 2000)], {
      quantize: { on: true, strength: 0.5, spread: 1 },
    });
    expect(keepEdit(s, 'p', [0])?.name).toBe('Keep one note and 1 linked to them');
    expect(keepEdit({ ...s, tracks: [{ ...s.tracks[0], parts: [{ ...part(s), on: false }] }] }, 'p', null)).toBeNull();
  });
});
