import fc from 'fast-check';
import {
  changeMarker,
  cutBars,
  doEdit,
  insertBars,
  isProblem,
  moveKey,
  moveMeter,
  moveTempo,
  placeKey,
  placeMarker,
  placeMeter,
  placeRamp,
  placeTempo,
  removeKey,
  removeMarker,
  removeMeter,
  removeTempo,
  shortBars,
  startHistory,
  undo,
  type Edit,
  type EditProblem,
  type Keeping,
} from '@early-sparrow/core/edit';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { keyName, keysOf, meterOf, songFault, tempoOf, type Song } from '@early-sparrow/core/song';
import { rampMs, rampSteps, TempoMap, type Ramp } from '@early-sparrow/core/time';
import { perform } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { applied, note, song, withEvents } from './build';
import { twoTracks } from './make-edits';

const json = (s: Song) => JSON.stringify(s);
type Made = Edit | EditProblem | null;

/** A song after an edit that has to fit: it is sound, can be written and read, and undo leaves what was there. */
function done(s: Song, edit: Made): Song {
  if (edit === null || isProblem(edit)) throw new Error(edit?.problem ?? 'Nothing to do.');
  const { song: after, inverse } = applied(s, edit);
  expect(songFault(after)).toBeNull();
  expect(json(applied(after, inverse).song)).toBe(json(s));
  return after;
}

const refused = (made: Made): string => {
  if (made === null || !isProblem(made)) throw new Error('It was not refused.');
  return made.problem;
};

/** Where each note sounds, in ms, by id. */
const seconds = (s: Song) =>
  new Map(
    s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => [n.id, tempoOf(s).toMs(n.start)] as const))),
  );
const ticks = (s: Song) =>
  s.tracks.flatMap((t) => t.parts.flatMap((p) => p.notes.map((n) => [n.id, n.start, n.length])));

describe('ramps', () => {
  const anyRamp = fc.record({
    from: fc.nat(40_000),
    length: fc.integer({ min: 960, max: 400_000 }),
    fromBpm: fc.double({ min: 20, max: 400, noNaN: true }),
    toBpm: fc.double({ min: 20, max: 400, noNaN: true }),
  });

  it('no place in the steps of a ramp is more than half a ms off', () => {
    fc.assert(
      fc.property(anyRamp, ({ from, length, fromBpm, toBpm }) => {
        const ramp: Ramp = { from, to: from + length, fromBpm, toBpm };
        const map = new TempoMap(960, rampSteps(960, ramp));
        for (let k = 0; k <= 257; k++) {
          const tick = from + (length * k) / 257;
          expect(Math.abs(map.between(from, tick) - rampMs(960, ramp, tick))).toBeLessThan(0.5);
        }
        expect(map.bpmAt(ramp.to)).toBeCloseTo(toBpm, 2);
      }),
    );
  });

  it('the time of a ramp is the integral of the tempo', () => {
    // Common practice (no source): a ramp over n beats lasts as long as the sum of very short beats.
    const ramp: Ramp = { from: 0, to: 3840, fromBpm: 60, toBpm: 120 };
    let sum = 0;
    for (let tick = 0; tick < 3840; tick += 0.5) sum += (0.5 * 60_000) / (960 * (60 + ((tick + 0.25) * 60) / 3840));
    expect(rampMs(960, ramp, 3840)).toBeCloseTo(sum, 4);
    // In closed form: 4 beats · 60 s / 60 BPM · ln 2.
    expect(rampMs(960, ramp, 3840)).toBeCloseTo(4000 * Math.LN2, 6);
  });
});

describe('tempo', () => {
  const base = song([note(0, 0), note(1, 960), note(2, 7680), note(3, 9600)]);

  it('keeps the bars: ticks stay, and what lies behind sounds at the new tempo', () => {
    const after = done(base, placeTempo(base, 3840, 60, 'bars'));
    expect(ticks(after)).toEqual(ticks(base));
    // 120 BPM for four beats, then 60: 2 s, and a second a beat.
    expect([...seconds(after).values()]).toEqual([0, 500, 6000, 8000]);
    const back = done(after, removeTempo(after, 3840, 3840, 'bars'));
    expect(json(back)).toBe(json(base));
  });

  it('keeps the seconds: any song sounds as before, whatever happens to its tempo', () => {
    fc.assert(
      fc.property(
        anySongAtAll,
        fc.nat(20_000),
        fc.integer({ min: 20, max: 300 }),
        fc.constantFrom('place', 'ramp', 'move', 'remove'),
        (s, at, bpm, what) => {
          const kept: Song =
            what === 'place' || what === 'ramp'
              ? s
              : {
                  ...s,
                  tempo: [
                    { tick: 0, usPerQuarter: 500_000 },
                    { tick: 4000, usPerQuarter: 400_000 },
                  ],
                };
          const made: Made =
            what === 'place'
              ? placeTempo(kept, at, bpm, 'seconds')
              : what === 'ramp'
                ? placeRamp(kept, { from: at, to: at + 5000, fromBpm: bpm, toBpm: 140 }, 'seconds')
                : what === 'move'
                  ? moveTempo(kept, 4000, at, 'seconds')
                  : removeTempo(kept, 4000, 4000, 'seconds');
          if (made === null) return;
          const after = done(kept, made);
          const [was, is] = [seconds(kept), seconds(after)];
          const map = tempoOf(after);
          for (const [id, ms] of was) {
            const now = is.get(id) ?? NaN;
            // Half a tick, at the tempo there.
            const half = 30_000 / (after.ppq * map.bpmAt(map.toTick(ms))) + 1e-6;
            const most = Math.max(half, 30_000 / (after.ppq * map.bpmAt(Math.max(0, map.toTick(ms) - 1))) + 1e-6);
            expect(Math.abs(now - ms)).toBeLessThanOrEqual(most);
          }
        },
      ),
      { numRuns: 60 },
    );
  });

  it('a change is put elsewhere, and takes the place of what stands there', () => {
    const one = done(base, placeTempo(base, 0, 90, 'bars'));
    const two = done(one, placeTempo(one, 3840, 60, 'bars'));
    const moved = done(two, moveTempo(two, 3840, 0, 'bars'));
    expect(moved.tempo).toEqual([{ tick: 0, usPerQuarter: 1_000_000 }]);
  });

  it.each([0, 3.9, 1001, 1e6, NaN, -120])('%s BPM is refused in a sentence', (bpm) => {
    expect(refused(placeTempo(base, 0, bpm, 'bars'))).toBe('Type a tempo from 4 to 1,000 BPM.');
    expect(refused(placeRamp(base, { from: 0, to: 10, fromBpm: 100, toBpm: bpm }, 'bars'))).toMatch(/4 to 1,000/);
  });

  it('a ramp that ends before it begins is refused', () => {
    expect(refused(placeRamp(base, { from: 100, to: 100, fromBpm: 100, toBpm: 120 }, 'bars'))).toMatch(/later end/);
  });
});

describe('meter', () => {
  const base = song([note(0, 0), note(1, 20_000)]);

  it('begins bars of another length, and says which bars are cut short', () => {
    const three = done(base, placeMeter(base, 3840, 3, 4));
    expect(meterOf(three).tickOfBar(3)).toBe(3840 + 2880);
    expect(shortBars(three)).toEqual([]);
    const later = done(three, placeMeter(three, 3840 + 2 * 2880 + 960, 4, 4));
    expect(shortBars(later)).toEqual([4]);
    expect(json(done(later, removeMeter(later, 3840 + 2 * 2880 + 960)))).toBe(json(three));
    expect(done(three, moveMeter(three, 3840, 7680)).meter).toEqual([
      expect.objectContaining({ tick: 7680, numerator: 3 }),
    ]);
  });

  it('clicks on the beat: every quarter, in 6/8 every dotted quarter', () => {
    // source: Standard MIDI Files 1.0 (RP-001), time signature: 24 MIDI clocks are a quarter note; its example is 6/8 with 36.
    const clocks = (n: number, d: number) => done(base, placeMeter(base, 0, n, d)).meter[0].clocks;
    expect([clocks(4, 4), clocks(6, 8), clocks(3, 8), clocks(7, 8), clocks(2, 2)]).toEqual([24, 36, 12, 12, 48]);
  });

  it.each([
    [0, 4],
    [65, 4],
    [4, 5],
    [4, 0],
    [3.5, 4],
  ])('%s/%s is refused in a sentence', (n, d) => {
    expect(refused(placeMeter(base, 0, n, d))).toMatch(/^A meter has 1 to 64 beats/);
  });
});

describe('markers and keys', () => {
  const base = song([note(0, 0)]);

  it('markers are added, renamed, moved and removed, and are in the file', () => {
    const one = done(base, placeMarker(base, 3840, ' Verse '));
    const two = done(one, placeMarker(one, 0, 'Start'));
    expect(two.markers.map((m) => m.name)).toEqual(['Start', 'Verse']);
    const named = done(two, changeMarker(two, 1, { name: 'Verse 2', tick: 1920 }));
    const { song: read } = readSmf(writeSmf(named, perform(named, 'corrected')), 'any');
    expect(read.markers.map(({ tick, name }) => [tick, name])).toEqual([
      [0, 'Start'],
      [1920, 'Verse 2'],
    ]);
    expect(done(named, removeMarker(named, 0)).markers.map((m) => m.name)).toEqual(['Verse 2']);
  });

  it('a name of 10,000 letters or of none is refused in a sentence', () => {
    expect(refused(placeMarker(base, 0, 'a'.repeat(10_000)))).toMatch(/at most 1,000 letters; this one has 10,000/);
    expect(refused(placeMarker(base, 0, '  '))).toBe('A marker needs a name.');
    expect(refused(changeMarker(base, 3, { name: 'x' }))).toBe('The marker is gone.');
  });

  it('keys are named by the circle of fifths, and are in the file', () => {
    // source: Standard MIDI Files 1.0 (RP-001), key signature: sf −7 is 7 flats, 0 C, 7 sharps; mi 1 is minor.
    expect(keyName({ sharps: 0, minor: false })).toBe('C major');
    expect(keyName({ sharps: -3, minor: true })).toBe('C minor');
    expect(keyName({ sharps: 7, minor: false })).toBe('C♯ major');
    expect(keyName({ sharps: -7, minor: true })).toBe('A♭ minor');
    const one = done(base, placeKey(base, { tick: 0, sharps: 2, minor: false }));
    const other = done(one, placeKey(one, { tick: 0, sharps: -2, minor: true }));
    expect(keysOf(other).map(keyName)).toEqual(['G minor']);
    const moved = done(other, moveKey(other, 0, 3840));
    const { song: read } = readSmf(writeSmf(moved, perform(moved, 'corrected')), 'any');
    expect(keysOf(read)).toEqual([expect.objectContaining({ tick: 3840, sharps: -2, minor: true })]);
    expect(keysOf(done(moved, removeKey(moved, 3840)))).toEqual([]);
  });

  it('without a track there is nowhere to keep a key', () => {
    expect(refused(placeKey({ ...base, tracks: [] }, { tick: 0, sharps: 0, minor: false }))).toMatch(/Add a track/);
  });
});

describe('whole bars', () => {
  const pedal = (tick: number, value: number) =>
    ({ type: 'controller', tick, channel: 0, controller: 64, value }) as const;
  const base: Song = {
    ...withEvents(song([note(0, 0), note(1, 3700, { length: 400 }), note(2, 3840), note(3, 7690), note(4, 12_000)]), [
      pedal(3000, 127),
      pedal(9000, 0),
    ]),
    tempo: [
      { tick: 0, usPerQuarter: 500_000 },
      { tick: 3900, usPerQuarter: 600_000 },
      { tick: 7680, usPerQuarter: 400_000 },
    ],
    markers: [
      { tick: 0, name: 'A' },
      { tick: 3840, name: 'B' },
      { tick: 7680, name: 'C' },
    ],
  };

  it('are inserted: what is behind comes later, with its tempo and markers', () => {
    const after = done(base, insertBars(base, 2, 2));
    expect(ticks(after)).toEqual([
      [0, 0, 200],
      [1, 3700, 400],
      [2, 3840 + 7680, 200],
      [3, 7690 + 7680, 200],
      [4, 12_000 + 7680, 200],
    ]);
    expect(after.tempo.map((t) => t.tick)).toEqual([0, 3900 + 7680, 7680 + 7680]);
    expect(after.markers.map((m) => m.tick)).toEqual([0, 3840 + 7680, 7680 + 7680]);
    // The pedal is up in the empty bars and down again behind them.
    expect(after.tracks[0].parts.map((p) => p.events.map((e) => [e.tick, 'value' in e && e.value]))).toEqual([
      [
        [3000, 127],
        [3840, 0],
      ],
      [
        [3840 + 7680, 127],
        [9000 + 7680, 0],
      ],
    ]);
  });

  it('are cut out: a note that rings into them is shorter, what holds behind them holds there', () => {
    const after = done(base, cutBars(base, 2, 1));
    expect(ticks(after)).toEqual([
      [0, 0, 200],
      [1, 3700, 140],
      [3, 3850, 200],
      [4, 8160, 200],
    ]);
    expect(after.tempo).toEqual([
      { tick: 0, usPerQuarter: 500_000 },
      { tick: 3840, usPerQuarter: 400_000 },
    ]);
    expect(after.markers).toEqual([
      { tick: 0, name: 'A' },
      { tick: 3840, name: 'C' },
    ]);
  });

  it('the first bar is cut out, and a first note a hair before the second is not lost', () => {
    const early = song([note(0, 3830, { length: 300 }), note(1, 4800)]);
    const part = { ...early.tracks[0].parts[0], start: 3840, end: 7680 };
    const s = { ...early, tracks: [{ ...early.tracks[0], parts: [part] }] };
    expect(ticks(done(s, cutBars(s, 1, 1)))).toEqual([
      [0, 0, 290],
      [1, 960, 200],
    ]);
  });

  it('in any song, what was inserted can be cut out again: every note is where it was', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 4 }), (s, bar, count) => {
        // Bars of parts of a tick, 62.5 for one, are inserted and cut out to the tick next to their lines.
        fc.pre(meterOf(s).pieces.every((p) => Number.isInteger(p.barTicks)));
        const inserted = insertBars(s, bar, count);
        if (inserted === null || isProblem(inserted)) return;
        const wide = done(s, inserted);
        const narrow = done(wide, cutBars(wide, bar, count));
        expect(narrow.tracks.map((t) => t.parts.flatMap((p) => p.notes.map((n) => [n.id, n.start])))).toEqual(
          s.tracks.map((t) => t.parts.flatMap((p) => p.notes.map((n) => [n.id, n.start]))),
        );
        expect(narrow.markers.map((m) => m.tick)).toEqual(s.markers.map((m) => m.tick));
        readSmf(writeSmf(narrow, perform(narrow, 'corrected')), 'any');
      }),
      { numRuns: 100 },
    );
  });

  it('in any song, bars are cut out anywhere: what is behind comes earlier by them, undo is exact', () => {
    fc.assert(
      fc.property(anySongAtAll, fc.integer({ min: 1, max: 12 }), fc.integer({ min: 1, max: 4 }), (s, bar, count) => {
        const cut = cutBars(s, bar, count);
        if (cut === null || isProblem(cut)) return;
        const after = done(s, cut);
        const [from, to] = [bar, bar + count].map((b) => Math.ceil(meterOf(s).tickOfBar(b)));
        const left = new Map(ticks(after).map(([id, start]) => [id, start]));
        for (const t of s.tracks) {
          for (const p of t.parts) {
            for (const n of p.notes) {
              const hair = n.start < p.start;
              // Nor is asked after one that may have been early for the first bar that is cut out or the first behind.
              if ([from, to].some((at) => n.start < at && at - n.start <= s.ppq / 4)) continue;
              if (n.start < from && !hair) expect(left.get(n.id)).toBe(n.start);
              if (n.start >= to && !hair) expect(left.get(n.id)).toBe(n.start - (to - from));
            }
          }
        }
      }),
      { numRuns: 100 },
    );
  });

  it.each([0, 2001, 1.5, NaN])('%s bars are refused in a sentence', (count) => {
    expect(refused(insertBars(base, 1, count))).toBe('Type a number of bars from 1 to 2,000.');
    expect(refused(cutBars(base, 1, count))).toBe('Type a number of bars from 1 to 2,000.');
  });
});

describe('a song of more than 24 hours', () => {
  it('is refused in a sentence, whichever edit would make it; a shorter one is not', () => {
    const base = twoTracks();
    const history = startHistory(base);
    const slow = doEdit(history, { kind: 'tempo', name: 'x', to: [{ tick: 0, usPerQuarter: 0xffffff }] });
    if (isProblem(slow)) throw new Error(slow.problem);
    const part = slow.song.tracks[0].parts[0];
    const far = doEdit(slow, {
      kind: 'part-move',
      name: 'x',
      part: part.id,
      track: slow.song.tracks[0].id,
      by: 20_000_000,
    });
    expect(far).toEqual({ problem: expect.stringMatching(/^The song would last \d+ hours; a song can last 24\.$/) });
    expect(json(undo(slow).song)).toBe(json(base));
  });
});

describe('time under both ways of keeping', () => {
  it.each<Keeping>(['bars', 'seconds'])('%s: a ramp and its removal leave the song', (keep) => {
    const base = song([note(0, 0), note(1, 5000), note(2, 9000)]);
    const ramped = done(base, placeRamp(base, { from: 3840, to: 7680, fromBpm: 120, toBpm: 80 }, keep));
    const back = done(ramped, removeTempo(ramped, 3840, 7680, keep));
    for (const [id, ms] of seconds(base)) expect(Math.abs((seconds(back).get(id) ?? NaN) - ms)).toBeLessThan(1);
  });
});
