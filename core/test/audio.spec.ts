import {
  addHitEdit,
  barsOf,
  findHits,
  ownTempoEdit,
  peakBetween,
  peaksOf,
  readWav,
  soundFileEdit,
  riseNear,
  speedOf,
  tempoFor,
  WavError,
  type Fitting,
  type Hit,
} from '@early-sparrow/core/audio';
import fc from 'fast-check';
import { applyEdit, isProblem, repeatPart, type Edit } from '@early-sparrow/core/edit';
import { analysePart } from '@early-sparrow/core/insight';
import { hash3 } from '@early-sparrow/core/maths';
import { writeWav } from '@early-sparrow/core/sound';
import { newPart, newSong, newTrack, speedAt, tempoOf, tickOfFile, type Song } from '@early-sparrow/core/song';
import { note } from './build';
import { drumLoop, LOOP_LENGTH, LOOP_RATE } from './drum-loop';

/** The same with a room around it and hiss over it. */
function blurred(samples: Float32Array): Float32Array {
  const out = samples.slice();
  for (const [delay, gain] of [
    [0.031, 0.3],
    [0.047, 0.22],
    [0.083, 0.14],
  ]) {
    const d = Math.round(delay * LOOP_RATE);
    for (let i = d; i < out.length; i++) out[i] += samples[i - d] * gain;
  }
  return out.map((s, i) => s + (hash3(9, i, 1) / 2 ** 32 - 0.5) * 0.01);
}

const loop = (hits: readonly Hit[], ms = LOOP_LENGTH) => ({ name: 'Loop', file: 'b'.repeat(64), ms, hits });

/** The song with the loop brought in, and what is told of it. */
function broughtIn(samples: Float32Array) {
  const song = newSong('Song');
  const hits = findHits(samples, LOOP_RATE);
  const done = applyEdit(
    song,
    soundFileEdit(song, loop(hits), { bar: 1, bars: barsOf(LOOP_LENGTH, song), fitting: 'fit' }),
  );
  if (isProblem(done)) throw new Error(done.problem);
  const [part] = done.song.tracks[0].parts;
  return { hits, part, analysis: analysePart(part, done.song) };
}

describe('hits of a recording', () => {
  it('are where they were played, each once, to 2 ms', () => {
    const { samples, places } = drumLoop(0.625);
    const hits = findHits(samples, LOOP_RATE).map((h) => h.ms);
    expect(hits.length).toBe(places.length);
    const off = hits.map((ms, i) => ms - places[i]);
    expect(off.filter((d) => Math.abs(d) >= 2)).toEqual([]);
  });

  it('of 62.5 % swing measure within a point, in a noisy room too', () => {
    const { samples } = drumLoop(0.625);
    for (const sound of [samples, blurred(samples)]) {
      const { analysis } = broughtIn(sound);
      expect(analysis.fits[0].text).toMatch(/^1\/16 ~/);
      expect(Math.abs(analysis.swing!.share - 0.625)).toBeLessThan(0.01);
    }
  });

  it('of straight playing are not swung', () => {
    const { analysis } = broughtIn(drumLoop(0.5).samples);
    expect(analysis.fits[0].text).toBe('1/16');
  });

  it('are none in silence', () => {
    expect(findHits(new Float32Array(LOOP_RATE), LOOP_RATE)).toEqual([]);
    // Dither of 16 bits: noise of one step, in steps (TPDF, a step of full scale being 1/32768).
    const dither = Float32Array.from(
      { length: 3 * LOOP_RATE },
      (_, i) => Math.round((hash3(3, i, 1) + hash3(3, i, 2)) / 2 ** 32 - 1) / 32_768,
    );
    expect(findHits(dither, LOOP_RATE)).toEqual([]);
  });

  it('fill whole bars of the song’s own tempo', () => {
    expect(barsOf(4000, newSong('Song'))).toBe(2);
    const slow = { ...newSong('Song'), tempo: [{ tick: 0, usPerQuarter: 1_000_000 }] };
    expect(barsOf(4000, slow)).toBe(1);
    expect(barsOf(100, slow)).toBe(1);
  });
});

describe('how a sound is drawn', () => {
  const { samples, places } = drumLoop(0.625);
  const peaks = peaksOf([samples], LOOP_RATE);

  it('holds its lowest and highest samples, finely and coarsely', () => {
    fc.assert(
      fc.property(fc.nat(3900), fc.integer({ min: 1, max: 90 }), (from, length) => {
        const [low, high] = peakBetween(peaks, from, from + length)!;
        const [a, b] = [from, from + length].map((ms) => Math.round((ms / 1000) * LOOP_RATE));
        const inside = samples.subarray(a, b);
        // Stretches are whole: they may hold a little more, and are kept to a 127th.
        expect(high).toBeGreaterThanOrEqual(inside.reduce((m, s) => Math.max(m, s), -1) - 1 / 127);
        expect(low).toBeLessThanOrEqual(inside.reduce((m, s) => Math.min(m, s), 1) + 1 / 127);
        const wide = samples.subarray(Math.max(0, a - 800), b + 800);
        expect(high).toBeLessThanOrEqual(wide.reduce((m, s) => Math.max(m, s), -1) + 1 / 127);
      }),
    );
    expect(peakBetween(peaks, 5000, 5001)).toBeNull();
    expect(peakBetween(peaks, -20, -10)).toBeNull();
  });

  it('tells where it rises near a place that was pressed', () => {
    for (const place of places.slice(2)) {
      for (const off of [-8, 0, 6]) expect(Math.abs(riseNear(peaks, place + off).ms - place)).toBeLessThanOrEqual(2);
    }
    expect(riseNear(peaksOf([new Float32Array(9000)], LOOP_RATE), 77)).toEqual({ ms: 77, strength: 0 });
  });
});

describe('a reference', () => {
  const hits = [0, 500, 1250, 3999].map((ms) => ({ ms, strength: 1 }));
  const brought = (song: Song, fitting: Fitting, bar: number, bars: number): Song =>
    apply(song, soundFileEdit(song, loop(hits), { bar, bars, fitting }));
  const apply = (song: Song, edit: Edit): Song => {
    const done = applyEdit(song, edit);
    if (isProblem(done)) throw new Error(done.problem);
    return done.song;
  };
  const changing: Song = {
    ...newSong('Song'),
    tempo: [
      { tick: 0, usPerQuarter: 500_000 },
      { tick: 5000, usPerQuarter: 640_000 },
    ],
  };
  const heardAt = (song: Song) => {
    const [part] = song.tracks[0].parts;
    return part.notes.map((n) => tempoOf(song).toMs(n.start) - tempoOf(song).toMs(part.start));
  };

  it('at its own speed sounds where it was struck, over a change of tempo too', () => {
    const song = brought(changing, 'own', 2, 1);
    const [part] = song.tracks[0].parts;
    expect(part.start).toBe(3840);
    heardAt(song).forEach((ms, i) => expect(Math.abs(ms - hits[i].ms)).toBeLessThan(0.6));
    for (const tick of [part.start, 4990, 5010, part.end - 2])
      expect(speedAt(part.audio!, tick, tempoOf(song))).toBeCloseTo(1, 6);
  });

  it('made to fit fills its bars, and its hits with it', () => {
    const song = brought(newSong('Song'), 'fit', 1, 3);
    const [part] = song.tracks[0].parts;
    expect([part.start, part.end]).toEqual([0, 3 * 3840]);
    heardAt(song).forEach((ms, i) => expect(Math.abs(ms - hits[i].ms * 1.5)).toBeLessThan(0.6));
    expect(speedOf(LOOP_LENGTH, newSong('Song'), { bar: 1, bars: 3 })).toBeCloseTo(1 / 1.5, 9);
  });

  it('that sets the tempo runs at its own speed, and leaves the tempi before and after it', () => {
    expect(tempoFor(LOOP_LENGTH, newSong('Song'), { bar: 1, bars: 3 })).toBeCloseTo(180, 9);
    const plain = brought(newSong('Song'), 'set', 1, 3);
    expect(tempoOf(plain).bpmAt(50_000)).toBeCloseTo(180, 3);
    const played = newTrack('t', 'Bass', { parts: [newPart('p', 'Bass', 0, 40_000, { notes: [note(0, 39_000)] })] });
    const long = { ...changing, nextId: 1, tracks: [played] };
    const song = brought(long, 'set', 2, 3);
    expect(tempoOf(song).bpmAt(0)).toBe(120);
    expect(tempoOf(song).bpmAt(3840)).toBeCloseTo(180, 3);
    expect(tempoOf(song).bpmAt(3840 * 4)).toBeCloseTo(93.75, 3);
  });

  it('gets a hit more where there is none, and no second one', () => {
    const song = brought(newSong('Song'), 'fit', 1, 3);
    const [part] = song.tracks[0].parts;
    expect(addHitEdit(song, part, { ms: 1258, strength: 1 })).toBeNull();
    const after = apply(song, addHitEdit(song, part, { ms: 2000, strength: 0.25 })!).tracks[0].parts[0];
    const [added] = after.notes.filter((n) => !part.notes.includes(n));
    expect(added.start).toBe(5760);
    expect(added.velocity).toBeLessThan(part.notes[0].velocity);
  });

  it('is repeated, sound and hits, up to an end or the next part', () => {
    const song = brought(newSong('Song'), 'fit', 1, 1);
    const id = song.tracks[0].parts[0].id;
    const all = apply(song, repeatPart(song, id, 3840 * 3 + 1)!).tracks[0].parts;
    expect(all.map((p) => [p.start, p.audio!.anchors[0].tick, p.notes[1].start - p.start])).toEqual(
      [0, 1, 2, 3].map((k) => [k * 3840, k * 3840, 480]),
    );
    const three = { ...song, tracks: [{ ...song.tracks[0], parts: [all[0], all[2]] }], nextId: 1000 };
    expect(apply(three, repeatPart(three, id, 1e6)!).tracks[0].parts.length).toBe(3);
    expect(repeatPart(song, id, 3840)).toBeNull();
  });

  it('gives the song the tempo that it had of its own, wherever that was lost', () => {
    const fitted = brought(newSong('Song'), 'fit', 1, 3);
    const [part] = fitted.tracks[0].parts;
    const song = apply(fitted, ownTempoEdit(fitted, part)!);
    for (const tick of [0, 4000, 11_000]) expect(speedAt(part.audio!, tick, tempoOf(song))).toBeCloseTo(1, 5);
  });

  it('sounds where it did under a tempo map that was fitted, and moves with its part', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ tick: fc.nat(12_000), usPerQuarter: fc.integer({ min: 200_000, max: 900_000 }) }), {
          maxLength: 6,
        }),
        fc.integer({ min: 96, max: 2000 }),
        fc.nat(9000),
        (changes, ppq, by) => {
          const song = brought(changing, 'fit', 1, 3);
          const under = [...changes].sort((a, b) => a.tick - b.tick);
          const retimed = apply(song, { kind: 'song-time', name: 'x', ppq, meter: [], under, tempo: under });
          const [before, after] = [song, retimed].map((s) => ({ ...s.tracks[0].parts[0].audio!, tempo: tempoOf(s) }));
          for (let ms = 1; ms < LOOP_LENGTH; ms += 97) {
            const sounds = (a: typeof before) => a.tempo.toMs(tickOfFile(a, ms));
            expect(Math.abs(sounds(after) - sounds(before))).toBeLessThan(0.01);
          }
          const { id } = song.tracks[0].parts[0];
          const done = applyEdit(retimed, { kind: 'part-move', name: 'x', part: id, track: 't0', by });
          if (isProblem(done)) throw new Error(done.problem);
          const moved = done.song.tracks[0].parts[0].audio!;
          expect(tickOfFile(moved, 700)).toBeCloseTo(tickOfFile(after, 700) + by, 6);
          expect(apply(done.song, done.inverse)).toEqual(retimed);
        },
      ),
    );
  });
});

describe('a WAV file', () => {
  it.each([0, 1, 48, 4_000_000_000])('that claims %d samples a second is refused', (rate) => {
    const bytes = writeWav(new Float32Array(100), new Float32Array(100), 48_000, 16);
    new DataView(bytes.buffer, bytes.byteOffset).setUint32(24, rate, true);
    expect(() => readWav(bytes)).toThrow(new WavError('rate'));
  });

  it('is read as it was written, to the bit', () => {
    const left = Float32Array.from({ length: 500 }, (_, i) => Math.sin(i / 9));
    for (const bits of [16, 24] as const) {
      const { samples, rate } = readWav(writeWav(left, left, 48_000, bits));
      expect(rate).toBe(48_000);
      samples.forEach((s, i) => expect(Math.abs(s - left[i])).toBeLessThan(2 ** (2 - bits)));
    }
  });

  it('that is none, is cut off, or of another kind, is refused', () => {
    const whole = writeWav(new Float32Array(9), new Float32Array(9), 48_000, 16);
    const fault = (bytes: Uint8Array) => {
      try {
        readWav(bytes);
      } catch (error) {
        return error instanceof WavError ? error.code : String(error);
      }
      return 'read';
    };
    expect(fault(new Uint8Array(3))).toBe('not-wav');
    expect(fault(whole.subarray(0, 30))).toBe('cut-off');
    const odd = whole.slice();
    odd[20] = 6;
    expect(fault(odd)).toBe('kind');
  });
});
