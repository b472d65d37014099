import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { unzipSync } from 'fflate';
import { makeOutput, type OutputWishes } from '@early-sparrow/core/batch';
import { noteListCsv } from '@early-sparrow/core/insight';
import { parseGrid } from '@early-sparrow/core/grid';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { heldAt, noteCount, tempoOf, type PartEvent, type Song } from '@early-sparrow/core/song';
import { extract, perform, type Extent } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { note, song, withEvents } from './build';

const ALL: Extent = { tracks: null, notes: null, span: null, base: 0 };
const demo = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'Night Ferry').song;

/** The part of a song that is wanted, written and read again. */
function written(from: Song, extent: Partial<Extent>, which: 'played' | 'corrected' = 'corrected'): Song {
  const { song, performance } = extract(from, perform(from, which), { ...ALL, ...extent });
  return readSmf(writeSmf(song, performance), 'x').song;
}
const notesOf = (s: Song) => s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes));
const eventsOf = (s: Song) => s.tracks.flatMap((t) => [...t.parts.flatMap((p) => p.events), ...t.setup]);

describe('a part of a song as a file of its own', () => {
  const [, marimba, bass] = demo.tracks;

  it('holds the tracks that are wanted, with their names and nothing of the others', () => {
    const one = written(demo, { tracks: new Set([bass.id]) }, 'played');
    const sounding = one.tracks.filter((t) => noteCount(t) > 0);
    expect(sounding.map((t) => t.name)).toEqual([bass.name]);
    const starts = (s: Song, name: string) =>
      s.tracks.find((t) => t.name === name)!.parts.flatMap((p) => p.notes.map((n) => [n.start, n.length, n.velocity]));
    expect(starts(one, bass.name)).toEqual(starts(demo, bass.name));
    expect(one.tempo.map((t) => t.usPerQuarter)).toEqual(demo.tempo.map((t) => t.usPerQuarter));
  });

  it('holds the notes that are wanted at their places, or from the first bar on', () => {
    const ids = new Set(marimba.parts[0].notes.slice(100, 104).map((n) => n.id));
    const places = marimba.parts[0].notes.slice(100, 104).map((n) => n.start);
    expect(notesOf(written(demo, { notes: ids }, 'played')).map((n) => n.start)).toEqual(places);
    const base = Math.floor(places[0] / 3840) * 3840;
    const moved = written(demo, { notes: ids, base }, 'played');
    expect(notesOf(moved).map((n) => n.start)).toEqual(places.map((p) => p - base));
  });

  it('of a loop begins with the notes that were meant for its start, early ones too, and is cut where it ends', () => {
    const s = song([
      note(0, 3600, { length: 100 }),
      note(1, 3830),
      note(2, 4800),
      note(3, 7500, { length: 900 }),
      note(4, 7670),
    ]);
    const loop = { from: 3840, to: 7680 };
    const own = notesOf(written(s, { span: loop, base: 3840 }));
    // 10 ticks before the loop: at its start. 10 ticks before its end: meant for what follows.
    expect(own.map((n) => [n.start, n.length])).toEqual([
      [0, 190],
      [960, 200],
      [3660, 180],
    ]);
    expect(notesOf(written(s, { span: loop })).map((n) => n.start)).toEqual([3830, 4800, 7500]);
  });

  it('sets what was set before, and lets go of what is held at its end', () => {
    const pedal = (tick: number, value: number) =>
      ({ type: 'controller', tick, channel: 0, controller: 64, value }) as const;
    const volume = { type: 'controller', tick: 10, channel: 0, controller: 7, value: 90 } as const;
    const bend = { type: 'bend', tick: 5000, channel: 0, value: 300 } as const;
    const s = withEvents(song([note(0, 4000), note(1, 9000)]), [
      volume,
      pedal(20, 127),
      pedal(4100, 0),
      pedal(4200, 127),
      bend,
    ]);
    const own = eventsOf(written(s, { span: { from: 3840, to: 7680 }, base: 3840 })).filter((e) => 'value' in e);
    const seen = own.map((e) => [e.tick, e.type === 'controller' ? e.controller : e.type, 'value' in e && e.value]);
    expect(seen.sort((a, b) => Number(a[0]) - Number(b[0]) || String(b[1]).localeCompare(String(a[1])))).toEqual([
      [0, 7, 90],
      [0, 64, 127],
      [260, 64, 0],
      [360, 64, 127],
      [1160, 'bend', 300],
      [3840, 'bend', 0],
      [3840, 64, 0],
    ]);
  });

  it('keeps the tempo and the meter that hold there', () => {
    const s: Song = {
      ...song([note(0, 0), note(1, 5760)]),
      tempo: [
        { tick: 0, usPerQuarter: 500_000 },
        { tick: 3840, usPerQuarter: 400_000 },
        { tick: 6720, usPerQuarter: 300_000 },
      ],
      meter: [
        { tick: 0, numerator: 4, denominator: 4, clocks: 24, thirtySeconds: 8 },
        { tick: 3840, numerator: 3, denominator: 4, clocks: 24, thirtySeconds: 8 },
      ],
    };
    const own = written(s, { span: { from: 4800, to: 9600 }, base: 4800 });
    expect(own.tempo.map((t) => [t.tick, t.usPerQuarter])).toEqual([
      [0, 400_000],
      [1920, 300_000],
    ]);
    expect(own.meter.map((m) => [m.tick, m.numerator])).toEqual([[0, 3]]);
  });

  it('of any song and any stretch: each note once, as many seconds after the first bar, and no pedal held', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.nat(8000), fc.integer({ min: 1, max: 8000 }), (s, at, long) => {
        const span = { from: at, to: at + long };
        const all = perform(s, 'corrected');
        const { song, performance } = extract(s, all, { ...ALL, span, base: at });
        const tempo = [tempoOf(s), tempoOf(song)];
        performance.forEach(({ notes, events }, t) => {
          const before = new Map(all[t].notes.map((n) => [n.note.id, n]));
          expect(new Set(notes.map((n) => n.note.id)).size).toBe(notes.length);
          for (const n of notes) {
            const { start } = before.get(n.note.id)!;
            if (start >= at) expect(tempo[1].toMs(n.start)).toBeCloseTo(tempo[0].between(at, start), 3);
            else expect(n.start).toBe(0);
            expect(n.end).toBeLessThanOrEqual(long);
          }
          const last = events
            .map((e) => e.event)
            .filter((e): e is PartEvent => e.type === 'controller' || e.type === 'bend');
          expect(heldAt(last)).toEqual([]);
        });
        // What lies beside the stretch and what lies in it are all there is.
        const rest = [
          { from: 0, to: at },
          { from: at + long, to: 1e9 },
        ].map((other) => extract(s, all, { ...ALL, span: other, base: 0 }).performance);
        const count = (p: typeof performance) => p.reduce((n, track) => n + track.notes.length, 0);
        expect(count(performance) + count(rest[0]) + count(rest[1])).toBe(count(all));
      }),
      { numRuns: 150 },
    );
  });
});

describe('the list of notes', () => {
  it('tells places, ms, lines and offsets, and quotes names', () => {
    const s = song([note(0, 250), note(1, 480, { length: 96 })], { quantize: { on: true, grid: parseGrid('1/16') } });
    const named: Song = { ...s, tracks: [{ ...s.tracks[0], name: 'Bass, "upright"' }] };
    const [head, first, second, end] = noteListCsv(named, () => true).split('\r\n');
    expect(head.split(',').slice(0, 5)).toEqual(['track', 'part', 'note', 'pitch', 'name']);
    expect(first).toBe(
      '"Bass, ""upright""",Part,0,60,C4,1,,1.1.250,130.208,1.1.240,125,1.1.240,5.208,0,moved,104.167,104.167,80,80',
    );
    expect(second).toBe('"Bass, ""upright""",Part,1,60,C4,1,,1.1.480,250,1.1.480,250,1.1.480,0,0,on-line,50,50,80,80');
    expect(end).toBe('');
    expect(noteListCsv(named, (_, id) => id === 1).split('\r\n')).toHaveLength(3);
  });
});

describe('what is written of a song', () => {
  const [, marimba, bass] = demo.tracks;
  const wishes: OutputWishes = { wanted: { what: 'song' }, side: 'corrected', form: 'midi', place: 'own' };
  const make = (more: Partial<OutputWishes>) => makeOutput(demo, { ...wishes, ...more });
  const read = (bytes: Uint8Array) => readSmf(bytes, 'x').song;
  const count = (s: Song) => notesOf(s).length;

  it('is the whole song to the byte, under a name that files can have', () => {
    expect(make({}).bytes).toEqual(writeSmf(demo, perform(demo, 'corrected')));
    expect(makeOutput({ ...demo, name: 'Take 3/4: “late?” ' }, { ...wishes, side: 'played' }).name).toBe(
      'Take 3-4- “late-”  (as played).mid',
    );
  });

  it('is a track, a part, some notes or a loop, under its name', () => {
    const track = make({ wanted: { what: 'track', track: bass.id } });
    expect([track.name, count(read(track.bytes))]).toEqual([
      `Night Ferry, ${bass.name} (corrected).mid`,
      noteCount(bass),
    ]);
    const part = make({ wanted: { what: 'parts', parts: [bass.parts[0].id] }, place: 'first-bar' });
    expect(count(read(part.bytes))).toBe(noteCount(bass));
    const ids = marimba.parts[0].notes.slice(64, 70).map((n) => n.id);
    const some = make({ wanted: { what: 'selection', notes: ids }, side: 'played', place: 'first-bar' });
    expect(some.name).toBe('Night Ferry, selection (as played).mid');
    const [first] = notesOf(read(some.bytes));
    expect(first.start).toBeLessThan(3840);
    expect(count(read(some.bytes))).toBe(6);
    const loop = read(make({ wanted: { what: 'loop', from: 3840, to: 7680 }, place: 'first-bar' }).bytes);
    expect(Math.max(...notesOf(loop).map((n) => n.start + n.length))).toBeLessThanOrEqual(3840);
  });

  it('is a zip file with each track by itself: together they are the song', () => {
    const { name, bytes } = make({ form: 'tracks' });
    expect(name).toBe('Night Ferry (corrected).zip');
    const files = unzipSync(bytes);
    const sounding = demo.tracks.filter((t) => noteCount(t) > 0);
    expect(Object.keys(files).map((f) => f.slice(3, -4))).toEqual(sounding.map((t) => t.name));
    const each = Object.values(files).map((f) => read(f));
    expect(each.reduce((n, s) => n + count(s), 0)).toBe(count(demo));
    for (const s of each) expect(s.tempo.map((t) => t.usPerQuarter)).toEqual(demo.tempo.map((t) => t.usPerQuarter));
  });

  it('is a list of notes that has as many lines', () => {
    const lines = (more: Partial<OutputWishes>) =>
      new TextDecoder()
        .decode(make({ form: 'notes', ...more }).bytes)
        .trimEnd()
        .split('\r\n').length - 1;
    expect(lines({})).toBe(count(demo));
    expect(lines({ wanted: { what: 'track', track: bass.id } })).toBe(noteCount(bass));
    expect(lines({ wanted: { what: 'selection', notes: [marimba.parts[0].notes[3].id] } })).toBe(1);
  });

  it('of nothing is a file without notes', () => {
    const none = make({ wanted: { what: 'selection', notes: [] }, place: 'first-bar' });
    expect(() => read(none.bytes)).not.toThrow();
    expect(make({ form: 'notes', wanted: { what: 'selection', notes: [] } }).bytes.length).toBeGreaterThan(0);
  });
});
