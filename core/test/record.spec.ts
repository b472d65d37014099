import fc from 'fast-check';
import { applyEdit, isProblem, type Edit } from '@early-sparrow/core/edit';
import { median } from '@early-sparrow/core/maths';
import {
  calibrate,
  collect,
  messageOf,
  onChannel,
  practise,
  recordedEdit,
  tapAlong,
  transposed,
  type Collecting,
  type MidiBytes,
  type PlayedMessage,
  type Practice,
} from '@early-sparrow/core/record';
import { gridLines } from '@early-sparrow/core/grid';
import {
  DEFAULT_TREATMENT,
  newSong,
  newTrack,
  roundsOf,
  songFault,
  tempoOf,
  timeOf,
  type Part,
  type PartEvent,
  type Song,
} from '@early-sparrow/core/song';
import { note, song } from './build';
import { score } from './scores';

/** 120 BPM: 1.92 ticks a ms. */
const tempo = tempoOf(newSong('x'));
const SIXTEENTHS = gridLines(DEFAULT_TREATMENT.quantize.grid, timeOf(newSong('x')));
const HOW: Collecting = {
  lines: SIXTEENTHS,
  tempo,
  latency: 0,
  end: 4000,
  stopped: 4000,
  begin: null,
  channel: null,
  punch: null,
};
const on = (ms: number, pitch: number, round = 0): PlayedMessage => ({ ms, round, bytes: [0x90, pitch, 80] });
const off = (ms: number, pitch: number, round = 0): PlayedMessage => ({ ms, round, bytes: [0x80, pitch, 64] });
const places = (rounds: ReturnType<typeof collect>) =>
  rounds.map((r) => r.notes.map((n) => [n.pitch, n.start, n.length]));
const STEADY: Practice = { late: 0, jitter: 0, drift: 0, wrong: 0, missed: 0, velocity: 0, seed: 1 };

describe('what is played in', () => {
  it('becomes notes at its place, less the latency, to the tick', () => {
    expect(places(collect([on(530, 60), off(780, 60)], { ...HOW, latency: 30 }))).toEqual([[[60, 960, 480]]]);
  });

  it('loses nothing: every key that was struck is a note, held ones end where recording did', () => {
    const any = fc.array(
      fc.record({
        ms: fc.double({ min: 0, max: 4000, noNaN: true }),
        pitch: fc.integer({ min: 60, max: 64 }),
        down: fc.boolean(),
      }),
      { maxLength: 60 },
    );
    fc.assert(
      fc.property(any, (raw) => {
        const messages = raw.sort((a, b) => a.ms - b.ms).map((m) => (m.down ? on(m.ms, m.pitch) : off(m.ms, m.pitch)));
        const notes = collect(messages, HOW).flatMap((r) => r.notes);
        expect(notes).toHaveLength(messages.filter((m) => m.bytes[0] === 0x90).length);
        for (const n of notes) {
          expect(n.length).toBeGreaterThanOrEqual(1);
          expect(n.start + n.length).toBeLessThanOrEqual(Math.round(4000 * 1.92) + 1);
        }
      }),
    );
  });

  it('is parted by rounds; a note held over the end is cut there, one struck a hair before belongs to the next round', () => {
    const how = { ...HOW, begin: 0, end: 2000 };
    const rounds = collect(
      [on(500, 60), off(900, 60), on(1500, 62), on(1960, 64), off(40, 62, 1), off(200, 64, 1)],
      how,
    );
    expect(places(rounds)).toEqual([
      [
        [60, 960, 768],
        [62, 2880, 960],
      ],
      [[64, 0, expect.any(Number)]],
    ]);
  });

  it('in a round keeps its late last notes: what is nearer to its own line than to the end of the loop is its own', () => {
    const how = { ...HOW, begin: 0, end: 2000 };
    // The last sixteenth lies at 1875 ms, the middle to the loop's end at 1937.5.
    const rounds = collect([on(1930, 60), off(30, 60, 1), on(1945, 61, 1), off(10, 61, 2), on(900, 62, 2)], how);
    expect(rounds.map((r) => r.notes.map((n) => [n.pitch, n.start]))).toEqual([
      [[60, 3706]],
      [],
      [
        [61, 0],
        [62, 1728],
      ],
    ]);
    // A short hit just before the end is the next round's too, unless there is none.
    const hits = [on(1990, 63), off(1995, 63), on(1990, 64, 1), off(1995, 64, 1)];
    expect(collect(hits, how).map((r) => r.notes.map((n) => n.pitch))).toEqual([[], [63, 64]]);
  });

  it('into a punch range keeps an early downbeat, and leaves the early one of what follows', () => {
    const how = { ...HOW, punch: { from: 500, to: 1500 } };
    const [round] = collect([on(470, 60), off(600, 60), on(1470, 61), off(1600, 61)], how);
    expect(round.notes.map((n) => [n.pitch, n.start])).toEqual([[60, 902]]);
  });

  it('inside a punch range only is kept, pedals and bends too', () => {
    const messages: PlayedMessage[] = [
      on(100, 60),
      off(200, 60),
      { ms: 600, round: 0, bytes: [0xb0, 64, 127] },
      on(700, 61),
      off(2500, 61),
      { ms: 900, round: 0, bytes: [0xe0, 0, 96] },
      on(1600, 62),
    ];
    const [round] = collect(messages, { ...HOW, punch: { from: 500, to: 1500 } });
    expect(round.notes.map((n) => n.pitch)).toEqual([61]);
    expect(round.events).toEqual([
      { type: 'controller', channel: 0, controller: 64, value: 127, tick: 1152 },
      { type: 'bend', channel: 0, value: 4096, tick: 1728 },
      // What is held beyond the range is let go at its end.
      { type: 'controller', channel: 0, controller: 64, value: 0, tick: 2880 },
      { type: 'bend', channel: 0, value: 0, tick: 2880 },
    ]);
  });

  it('ends what is held where recording stops, and lets pedals go with each round', () => {
    const pedal = (ms: number, value: number, round = 0): PlayedMessage => ({ ms, round, bytes: [0xb0, 64, value] });
    const how = { ...HOW, begin: 500, end: 2000, stopped: 1000 };
    const rounds = collect([pedal(600, 127), on(700, 60, 1), on(800, 61, 1)], how);
    const lengths = rounds[1].notes.map((n) => n.start + n.length);
    expect(lengths).toEqual([1920, 1920]);
    const values = rounds.map((r) => r.events.map((e) => [e.tick, 'value' in e ? e.value : null]));
    expect(values).toEqual([
      [
        [1152, 127],
        [3840, 0],
      ],
      [
        [960, 127],
        [1920, 0],
      ],
    ]);
    const up = collect([pedal(600, 127), pedal(900, 0)], how);
    expect(up[0].events).toHaveLength(2);
    // Held over into a round that ends before the place where the pedal went down in the first.
    const over = collect([pedal(1500, 127), on(600, 60, 1)], { ...how, stopped: 700 });
    expect(over[1].events.map((e) => e.tick)).toEqual([960, 1344]);
  });

  it('sounds transposed with its track, keys alone, and goes out on a channel', () => {
    expect(transposed([0x93, 60, 9], 12)).toEqual([0x93, 72, 9]);
    expect(transposed([0x80, 60, 9], -12)).toEqual([0x80, 48, 9]);
    expect(transposed([0x90, 120, 9], 12)).toBeNull();
    expect(transposed([0xb0, 64, 127], 12)).toEqual([0xb0, 64, 127]);
    // source: MIDI 1.0, channel voice messages: two bytes for program and channel pressure, three for others
    expect([onChannel([0x93, 60, 9], 5), onChannel([0xc0, 7, 0], 5)]).toEqual([
      [0x95, 60, 9],
      [0xc5, 7],
    ]);
  });

  it('is read from a device’s bytes, and what is none of a channel is left', () => {
    // source: MIDI 1.0: status bytes from 0x80, system messages from 0xF0, data bytes below 0x80
    expect(messageOf([0x91, 60, 100])).toEqual([0x91, 60, 100]);
    expect(messageOf([0xc2, 5])).toEqual([0xc2, 5, 0]);
    expect([[0xf8], [0x90, 60], [60, 100], [0x90, 200, 3], []].map((d) => messageOf(d))).toEqual([
      null,
      null,
      null,
      null,
      null,
    ]);
  });
});

describe('a recording', () => {
  const empty = (): Song => ({ ...newSong('New'), tracks: [newTrack('t0', 'Keys')], nextId: 1 });
  const into = (s: Song) => ({
    track: s.tracks[0],
    into: null as Part | null,
    replace: [],
    treatment: null,
    name: 'Record Keys',
    from: 0,
    to: 3840,
  });
  const made = (...of: Parameters<typeof recordedEdit>): Edit => {
    const step = recordedEdit(...of);
    if (!step || isProblem(step)) throw new Error('It was not made.');
    return step.edit;
  };
  const done = (s: Song, edit: Edit) => {
    const result = applyEdit(s, edit);
    if (isProblem(result)) throw new Error(result.problem);
    return result;
  };

  it('of one round is a part, and undo takes it back', () => {
    const s = empty();
    const { song: after, inverse } = done(s, made(s, collect([on(10, 60), off(400, 60)], HOW), into(s)));
    expect(after.tracks[0].parts[0].notes).toHaveLength(1);
    expect(songFault(after)).toBeNull();
    expect(done(after, inverse).song.tracks).toEqual(s.tracks);
  });

  it('chooses no round in which only a pedal was held over', () => {
    const s = empty();
    const pedal = (ms: number, value: number, round: number): PlayedMessage => ({
      ms,
      round,
      bytes: [0xb0, 64, value],
    });
    const how = { ...HOW, end: 2000, begin: 0 };
    const rounds = collect([on(10, 60), off(400, 60), pedal(900, 127, 0), pedal(300, 0, 1)], how);
    const [part] = done(s, made(s, rounds, into(s))).song.tracks[0].parts;
    expect(part.notes).toHaveLength(1);
    expect(part.takes).toBeUndefined();
    expect(part.events.map((e) => 'value' in e && e.value)).toEqual([127, 0]);
    expect(recordedEdit(s, collect([pedal(900, 127, 0)], how), into(s))).toBeNull();
  });

  it('of several rounds keeps each as a take; choosing and mixing lose nothing and are undone', () => {
    const s = empty();
    const rounds = collect(
      [on(10, 60), off(400, 60), on(20, 61, 1), off(300, 61, 1), on(1500, 62, 2), off(1600, 62, 2)],
      {
        ...HOW,
        end: 2000,
        begin: 0,
      },
    );
    const { song: after } = done(s, made(s, rounds, into(s)));
    const part = after.tracks[0].parts[0];
    expect(roundsOf(part).map((r) => r.notes.map((n) => n.pitch))).toEqual([[60], [61], [62]]);
    expect(part.takes?.chosen.name).toBe('Take 3');
    expect(songFault(after)).toBeNull();
    const first = roundsOf(part)[0].id;
    const chosen = done(after, { kind: 'part-take', name: 'Choose', part: part.id, take: first });
    expect(chosen.song.tracks[0].parts[0].notes.map((n) => n.pitch)).toEqual([60]);
    expect(songFault(chosen.song)).toBeNull();
    const mixed = done(after, {
      kind: 'part-take',
      name: 'Mix',
      part: part.id,
      take: first,
      range: { from: 0, to: 960 },
    });
    expect(mixed.song.tracks[0].parts[0].notes.map((n) => n.pitch)).toEqual([60, 62]);
    expect(done(mixed.song, mixed.inverse).song.tracks).toEqual(after.tracks);
    expect(done(chosen.song, chosen.inverse).song.tracks).toEqual(after.tracks);
    const alone = done(after, { kind: 'part-one-take', name: 'Keep', part: part.id, takes: null });
    expect(alone.song.tracks[0].parts[0].takes).toBeUndefined();
    expect(done(alone.song, alone.inverse).song.tracks).toEqual(after.tracks);
  });

  it('into a part adds to it, or takes the place of what was there', () => {
    const s = song([note(0, 100), note(1, 2000)]);
    const [track] = s.tracks;
    const rounds = collect([on(100, 72), off(200, 72)], HOW);
    const to = { ...into(s), track, into: track.parts[0] };
    const added = done(s, made(s, rounds, to)).song.tracks[0].parts[0];
    expect(added.notes.map((n) => n.start)).toEqual([100, 192, 2000]);
    const replaced = done(s, made(s, rounds, { ...to, replace: [{ from: 0, to: 960 }] })).song.tracks[0].parts[0];
    expect(replaced.notes.map((n) => n.start)).toEqual([192, 2000]);
  });

  it('keeps for undo what it changed, however much is in the part', () => {
    const s = song(Array.from({ length: 5000 }, (_, i) => note(i, i * 100)));
    const [track] = s.tracks;
    const rounds = collect([on(100, 72), off(200, 72)], HOW);
    const { inverse } = done(
      s,
      made(s, rounds, { ...into(s), track, into: track.parts[0], replace: [{ from: 0, to: 960 }] }),
    );
    expect(JSON.stringify(inverse).length).toBeLessThan(3000);
  });

  it('leaves no pedal down that was not, and none up that goes on, where it takes the place of what was there', () => {
    const pedal = (tick: number, value: number): PartEvent => ({
      type: 'controller',
      channel: 0,
      controller: 64,
      tick,
      value,
    });
    const s = song([note(0, 100), note(1, 2000)]);
    const [track] = s.tracks;
    // Down before the stretch and up inside of it; and down inside and up after it.
    const part = { ...track.parts[0], events: [pedal(50, 127), pedal(500, 0), pedal(800, 127), pedal(1500, 0)] };
    const held = { ...s, tracks: [{ ...track, parts: [part] }] };
    const rounds = collect([on(100, 72), off(200, 72)], HOW);
    const to = { ...into(held), track: held.tracks[0], into: part, replace: [{ from: 192, to: 960 }] };
    const after = done(held, made(held, rounds, to)).song.tracks[0].parts[0];
    expect(after.events.map((e) => [e.tick, 'value' in e && e.value])).toEqual([
      [50, 127],
      [192, 0],
      [960, 127],
      [1500, 0],
    ]);
  });

  it('before its part makes the part longer by whole bars: nothing of it lies outside', () => {
    const s = song([note(0, 4000), note(1, 5000)]);
    const [track] = s.tracks;
    const part = { ...track.parts[0], start: 3840 };
    const late = { ...s, tracks: [{ ...track, parts: [part] }] };
    const rounds = collect([on(500, 72), off(700, 72)], HOW);
    const after = done(late, made(late, rounds, { ...into(late), track: late.tracks[0], into: part })).song.tracks[0];
    expect(after.parts[0].start).toBe(0);
  });

  it('in which nothing was played is none', () => {
    const s = empty();
    expect(recordedEdit(s, collect([], HOW), into(s))).toBeNull();
  });
});

describe('the practice player', () => {
  const notes = score(
    Array.from({ length: 400 }, (_, id) => ({ id, start: id * 125, end: id * 125 + 60, pitch: 60 + (id % 12) })),
  ).notes;
  const starts = (how: Partial<Practice>) =>
    practise(notes, { ...STEADY, ...how })
      .filter((m) => m.bytes[0] === 0x90)
      .map((m) => m.ms);

  it('plays what it is given where it is steady, and the same again for the same seed', () => {
    expect(starts({})).toEqual([...notes.start]);
    expect(practise(notes, { ...STEADY, jitter: 9, drift: 9 })).toEqual(
      practise(notes, { ...STEADY, jitter: 9, drift: 9 }),
    );
  });

  it('is late and uneven by what is asked', () => {
    const off = starts({ late: 30, jitter: 12 })
      .sort((a, b) => a - b)
      .map((ms, i) => ms - notes.start[i]);
    const mean = off.reduce((a, b) => a + b) / off.length;
    const sd = Math.sqrt(off.reduce((sum, d) => sum + (d - mean) ** 2, 0) / off.length);
    expect(mean).toBeGreaterThan(28);
    expect(mean).toBeLessThan(32);
    expect(sd).toBeGreaterThan(10.5);
    expect(sd).toBeLessThan(13.5);
  });

  it('misses notes, plays wrong ones, and lets every key go', () => {
    const played = practise(notes, { ...STEADY, missed: 0.2, wrong: 0.1, velocity: 20 });
    const ons = played.filter((m) => m.bytes[0] === 0x90);
    expect(ons.length).toBeGreaterThan(290);
    expect(ons.length).toBeLessThan(350);
    expect(played.length).toBe(ons.length * 2);
    const down = new Set<number>();
    for (const { bytes } of played) {
      const [status, pitch] = bytes as MidiBytes;
      if (status === 0x90) {
        expect(down.has(pitch)).toBe(false);
        down.add(pitch);
      } else down.delete(pitch);
    }
    expect(down.size).toBe(0);
  });
});

describe('calibration', () => {
  const beats = Array.from({ length: 16 }, (_, k) => k * 500);

  const tapped = (beats: readonly number[], seed: number) =>
    tapAlong(beats, { ...STEADY, late: 30, jitter: 12, seed })
      .filter((m) => m.bytes[0] === 0x90)
      .map((m) => m.ms);

  it('finds latency and spread from taps, and how sure that is', () => {
    const many = Array.from({ length: 80 }, (_, k) => k * 500);
    const seeds = Array.from({ length: 400 }, (_, seed) => seed);
    for (const [count, sure] of [
      [16, 7.5],
      [80, 3],
    ]) {
      const found = seeds.map((seed) => calibrate(many, tapped(many.slice(0, count), seed))!);
      // Of the truths nineteen in twenty lie within what is said.
      const inside = found.filter((f) => Math.abs(f.latency - 30) <= f.sure).length;
      expect(inside / found.length).toBeGreaterThan(0.92);
      expect(inside / found.length).toBeLessThan(0.98);
      expect(median(found.map((f) => f.sure))).toBeLessThan(sure);
      // source: of normal values the median distance is 0.6745 standard deviations, any statistics text
      expect(Math.abs(median(found.map((f) => f.spread)) - 0.6745 * 12)).toBeLessThan(1);
    }
  });

  it('is not led astray by a slip', () => {
    const taps = tapped(beats, 3);
    const found = calibrate(beats, taps)!;
    const slipped = calibrate(
      beats,
      taps.map((t, i) => (i === 9 ? t + 120 : t)),
    )!;
    expect(Math.abs(slipped.latency - found.latency)).toBeLessThan(4);
  });

  it('is none for too few taps, and taps that are far from every beat count for nothing', () => {
    expect(calibrate(beats, [10, 510, 1010])).toBeNull();
    const found = calibrate(
      beats,
      [...beats.map((b) => b + 20), 750, 1250].sort((a, b) => a - b),
    )!;
    expect(found.latency).toBeCloseTo(20, 9);
    expect(found.taps).toBe(14);
  });
});
