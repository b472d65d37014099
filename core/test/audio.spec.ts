import { barsOf, findHits, readWav, referenceEdit, WavError } from '@early-sparrow/core/audio';
import { applyEdit, isProblem } from '@early-sparrow/core/edit';
import { analysePart } from '@early-sparrow/core/insight';
import { hash3 } from '@early-sparrow/core/maths';
import { writeWav } from '@early-sparrow/core/sound';
import { newSong } from '@early-sparrow/core/song';
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

/** The song with the loop brought in, and what is told of it. */
function broughtIn(samples: Float32Array) {
  const song = newSong('Song');
  const hits = findHits(samples, LOOP_RATE);
  const done = applyEdit(song, referenceEdit(song, 'Loop', hits, LOOP_LENGTH, barsOf(LOOP_LENGTH, song))!);
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
    expect(referenceEdit(newSong('Song'), 'Silence', [], 1000, 1)).toBeNull();
  });

  it('fill whole bars of the song’s own tempo', () => {
    expect(barsOf(4000, newSong('Song'))).toBe(2);
    const slow = { ...newSong('Song'), tempo: [{ tick: 0, usPerQuarter: 1_000_000 }] };
    expect(barsOf(4000, slow)).toBe(1);
    expect(barsOf(100, slow)).toBe(1);
  });
});

describe('a WAV file', () => {
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
