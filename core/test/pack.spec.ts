import fc from 'fast-check';
import { atOnce } from '@early-sparrow/core/maths';
import {
  areNotes,
  buffersOf,
  NotesSchema,
  NoteSchema,
  pack,
  packPieces,
  unpack,
  unpackPieces,
  type Note,
} from '@early-sparrow/core/song';

const tick = fc.nat({ max: 2 ** 40 });
const velocity = fc.integer({ min: 1, max: 127 });
const order = fc.tuple(fc.option(fc.nat()), fc.option(fc.nat()));
const place = { start: tick, length: tick, velocity };
const anyNote: fc.Arbitrary<Note> = fc.record(
  {
    id: tick,
    ...place,
    pitch: fc.nat({ max: 127 }),
    channel: fc.nat({ max: 15 }),
    release: fc.option(fc.nat({ max: 127 })),
    take: fc.record(
      { ...place, order, unended: fc.constant(true as const) },
      { requiredKeys: ['start', 'length', 'velocity'] },
    ),
    exception: fc.oneof(
      fc.record({ kind: fc.constant('own' as const), set: fc.string() }),
      fc.record({ kind: fc.constantFrom('as-played' as const, 'dropped' as const) }),
      fc.record({ kind: fc.constant('pinned' as const), ...place }),
    ),
    muted: fc.constant(true as const),
    unended: fc.constant(true as const),
    order,
  },
  { requiredKeys: ['id', 'start', 'length', 'velocity', 'pitch', 'channel', 'release'] },
);
const long = fc.array(anyNote, { minLength: 64, maxLength: 90 });

/** What a store gives back: its own copy. */
const kept = (value: unknown) => unpack(structuredClone(pack(value)));

describe('packing', () => {
  it('leaves a list as it is in which one is no note, wherever it stands, and that one is told', () => {
    fc.assert(
      fc.property(long, fc.nat(), (notes, at) => {
        const wrong = at % notes.length;
        const spoilt = notes.map((n, i) => (i === wrong ? { ...n, pitch: 128 } : n));
        for (let asked = 0; asked < 2; asked++) {
          expect([areNotes(notes), areNotes(spoilt)]).toEqual([true, false]);
          expect(NotesSchema.safeParse(spoilt).error?.issues[0].path).toEqual([wrong, 'pitch']);
          expect(atOnce(packPieces({ notes: spoilt }))).toEqual({ notes: spoilt });
        }
      }),
    );
  });

  it('gives back every note as it was, whatever it has', () => {
    fc.assert(
      fc.property(long, fc.array(anyNote, { maxLength: 5 }), (notes, few) => {
        const song = { name: 'x', tracks: [{ parts: [{ notes, takes: { others: [{ notes: few }] } }] }], at: null };
        expect(kept(song)).toEqual(song);
      }),
      { numRuns: 60 },
    );
  });

  it('is the same in pieces', () => {
    fc.assert(
      fc.property(long, fc.array(anyNote, { maxLength: 5 }), (notes, few) => {
        const edits = [
          { kind: 'notes', remove: notes.map((n) => n.id), add: notes },
          { kind: 'notes', add: few },
        ];
        for (const value of [{ kind: 'several', edits }, edits, notes, [...notes, { pitch: 'C4' }], few, 7, null]) {
          expect(atOnce(packPieces(value))).toEqual(pack(value));
          expect(atOnce(unpackPieces(pack(value)))).toEqual(unpack(pack(value)));
        }
      }),
      { numRuns: 30 },
    );
  });

  it('names the memory of its columns, and nothing that is the song’s own', () => {
    const bytes = new Uint8Array([1, 2, 3]);
    const notes = Array.from({ length: 70 }, (_, id) => ({
      ...{ id, start: id, length: 1, pitch: 60, velocity: 64, channel: 0, release: null, later: bytes },
    }));
    const value = { edits: [{ add: notes, remove: notes.map((n) => n.id) }, { events: [{ bytes }] }] };
    const packed = pack(value);
    const moved = buffersOf(packed);
    // Ids, places (four), pitch, channel and release of the notes, and the ids that go.
    expect(moved).toHaveLength(9);
    expect(moved).not.toContain(bytes.buffer);
    expect(unpack(structuredClone(packed, { transfer: moved }))).toEqual(value);
    expect(moved.every((m) => m.byteLength === 0)).toBe(true);
    expect(bytes).toHaveLength(3);
  });

  it('reads what earlier versions kept: every number in eight bytes, no order as none', () => {
    const notes = Array.from({ length: 70 }, (_, id) => ({
      ...{ id, start: id * 10, length: 5, pitch: 60, velocity: 64, channel: 0, release: null },
      order: [id, id % 2 ? null : id + 1] as const,
    }));
    const { order, place, ...packed } = pack(notes) as Record<string, Record<string, ArrayLike<number>>>;
    const wide = (column: ArrayLike<number>) => Float64Array.from(column, (n) => (n === 0xffffffff ? NaN : n));
    const before = {
      ...packed,
      id: wide(packed['id'] as unknown as ArrayLike<number>),
      place: { ...place, start: wide(place['start']), length: wide(place['length']) },
      order: { ...order, on: wide(order['on']), off: wide(order['off']) },
    };
    expect(before.order.off).toContainEqual(NaN);
    expect(unpack(before)).toEqual(notes);
  });

  it('has every property of a note in the notes above: a new one has to be tried too', () => {
    const known = ['id', 'start', 'length', 'velocity', 'pitch', 'channel', 'release'];
    const some = ['take', 'exception', 'muted', 'unended', 'order'];
    expect(Object.keys(NoteSchema.shape).sort()).toEqual([...known, ...some].sort());
  });

  it('keeps what a later version may add to a note', () => {
    const notes = Array.from({ length: 70 }, (_, id) => ({
      id,
      start: id,
      length: 1,
      pitch: 60,
      velocity: 64,
      channel: 0,
      release: null,
      bend: [id, 'x'],
      take: { start: 1, length: 2, velocity: 3, bend: 4 },
      exception: { kind: 'pinned', start: 1, length: 2, velocity: 3, how: 'x' },
    }));
    expect(kept({ notes })).toEqual({ notes });
  });

  it('puts long lists of notes and numbers into columns, and leaves everything else alone', () => {
    const note = { id: 1, start: 0, length: 1, pitch: 60, velocity: 64, channel: 0, release: null };
    const notes = Array.from({ length: 100 }, () => note);
    const packed = pack({ notes, ids: notes.map((n) => n.id) }) as Record<string, Record<string, unknown>>;
    expect(packed['notes']['pitch']).toBeInstanceOf(Uint8Array);
    expect(packed['ids']['values']).toBeInstanceOf(Uint32Array);
    expect(pack(notes.map((n) => n.id + 0.5))).toMatchObject({ values: expect.any(Float64Array) });
    const small = { name: 'x', notes: [note], bytes: new Uint8Array([1, 2]) };
    expect(pack(small)).toBe(small);
    const broken = { notes: [...notes, { ...note, pitch: 'C4' }] };
    expect(pack(broken)).toBe(broken);
    const words = { ids: [...Array.from({ length: 100 }, (_, i) => i), 'x'] };
    expect(pack(words)).toBe(words);
  });

  it('leaves what is damaged for its reader to refuse', () => {
    const note = { id: 1, start: 0, length: 1, pitch: 60, velocity: 64, channel: 0, release: null };
    const packed = pack({ notes: Array.from({ length: 100 }, () => note) }) as { notes: Record<string, unknown> };
    const damaged = { notes: { ...packed.notes, pitch: new Uint8Array(3) } };
    expect(unpack(damaged)).toEqual(damaged);
    expect(unpack({ notes: { packed: 'notes' } })).toEqual({ notes: { packed: 'notes' } });
  });
});
