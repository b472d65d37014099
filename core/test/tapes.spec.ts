import { asPlayed } from '@early-sparrow/core/performance';
import { mixOf, renderSpan, scoresOf, wholeSpan, type SoundFile } from '@early-sparrow/core/sound';
import { Band, Conductor } from '@early-sparrow/core/sound';
import { newPart, newSong, newTrack, type PartAudio, type Song } from '@early-sparrow/core/song';
import { note } from './build';
import { score } from './scores';

const RATE = 48_000;
const ID = 'c'.repeat(64);

/** A file of four seconds with a click of one sample each quarter of a second. */
function clicks(rate = RATE): SoundFile {
  const left = new Float32Array(4 * rate);
  for (let i = 0; i < left.length; i += rate / 4) left[i] = 0.5;
  return { left, right: left, rate };
}

function playing(anchors: PartAudio['anchors'], more: Partial<PartAudio> = {}, song = newSong('Song')): Song {
  const audio: PartAudio = { file: ID, name: 'Clicks', ms: 4000, anchors, heard: 'file', ...more };
  const part = newPart('p1', 'Clicks', 0, 7680, { audio, notes: [note(0, 480)] });
  return { ...song, tracks: [newTrack('t', 'Clicks', { parts: [part] })], nextId: 2 };
}

function rendered(song: Song, file = clicks()): Float32Array {
  return renderSpan(
    {
      scores: scoresOf(song, asPlayed(song)),
      mix: mixOf(song),
      files: new Map([[ID, file]]),
      span: wholeSpan(song),
      rate: RATE,
    },
    null,
  )[0];
}

/** Frames at which the sound is loudest around each click. */
function peaks(sound: Float32Array): number[] {
  const found: number[] = [];
  for (let i = 1; i < sound.length - 1; i++) {
    const here = Math.abs(sound[i]);
    if (here > 0.2 && here >= Math.abs(sound[i - 1]) && here > Math.abs(sound[i + 1])) found.push(i);
  }
  return found;
}

const OWN = [
  { tick: 0, ms: 0 },
  { tick: 7680, ms: 4000 },
];

describe('a sound file that plays along', () => {
  it('sounds to the frame where it is, sample for sample at its own speed', () => {
    const sound = rendered(playing(OWN));
    expect(peaks(sound)).toEqual(Array.from({ length: 16 }, (_, i) => i * 12_000).slice(1));
    expect(sound[12_000]).toBeCloseTo(0.5, 6);
    expect(sound[0]).toBeCloseTo(0.5, 6);
  });

  it('of another rate sounds at the same places', () => {
    const found = peaks(rendered(playing(OWN), clicks(44_100)));
    found.forEach((frame, i) => expect(Math.abs(frame - (i + 1) * 12_000)).toBeLessThanOrEqual(1));
    expect(found.length).toBe(15);
  });

  it('follows the song’s tempo, its anchors, and the track’s delay', () => {
    const slower = { ...newSong('Song'), tempo: [{ tick: 3840, usPerQuarter: 1_000_000 }] };
    const found = peaks(rendered(playing(OWN, {}, slower)));
    // The second bar is twice as long.
    expect(found.slice(0, 7)).toEqual([1, 2, 3, 4, 5, 6, 7].map((i) => i * 12_000));
    found.slice(7).forEach((frame, i) => expect(Math.abs(frame - (96_000 + i * 24_000))).toBeLessThanOrEqual(1));
    const bent = [OWN[0], { tick: 1920, ms: 2000 }, { tick: 7680, ms: 4000 }];
    const uneven = peaks(rendered(playing(bent)));
    expect(Math.abs(uneven[3] - 24_000)).toBeLessThanOrEqual(1);
    const [, late] = [0, 1].map((k) => {
      const song = playing(OWN);
      const tracks = song.tracks.map((t) => ({ ...t, delay: { value: k * 10, unit: 'ms' as const } }));
      return peaks(rendered({ ...song, tracks }));
    });
    expect(late.slice(1, 5)).toEqual([1, 2, 3, 4].map((i) => i * 12_000 + 480));
  });

  it('is silent outside its part, where it is muted, and where its hits are heard in its place', () => {
    const song = playing(OWN);
    const short = { ...song, tracks: [{ ...song.tracks[0], parts: [{ ...song.tracks[0].parts[0], end: 2000 }] }] };
    expect(Math.max(...peaks(rendered(short)))).toBeLessThan(2000 * 25);
    const muted = { ...song, tracks: [{ ...song.tracks[0], mute: true }] };
    expect(peaks(rendered(muted))).toEqual([]);
    const heard = (which: PartAudio['heard']) => {
      const [one] = scoresOf(playing(OWN, { heard: which }), asPlayed(playing(OWN, { heard: which })));
      return [one.strips.length, one.notes.id.length];
    };
    expect([heard('file'), heard('notes'), heard('both')]).toEqual([
      [1, 0],
      [0, 1],
      [1, 1],
    ]);
  });

  it('goes round in a loop to the frame, waits for the count-in, and never clicks where it leaves off', () => {
    const tone = Float32Array.from({ length: 4 * RATE }, (_, i) => 0.5 * Math.sin((2 * Math.PI * 110 * i) / RATE));
    const band = new Band(RATE);
    const conductor = new Conductor(band, RATE, { leg: () => undefined, ended: () => undefined });
    const [strips] = [scoresOf(playing(OWN), asPlayed(playing(OWN)))[0].strips];
    const track = { ...score([]), strips };
    band.setTrack('t', track);
    conductor.setTrack('t', track);
    band.setFile(ID, { left: tone, right: tone, rate: RATE });
    conductor.setLoop({ from: 300, to: 900 });
    conductor.start(300, 0, { at: Float64Array.of(-500), kind: Uint8Array.of(1) });
    band.tickGain = 0;
    const sound = new Float32Array(3 * RATE);
    const right = new Float32Array(sound.length);
    for (let i = 0; i + 128 <= sound.length; i += 128)
      conductor.render(sound.subarray(i, i + 128), right.subarray(i, i + 128));
    // Half a second of count-in, then rounds of 0.6 s.
    expect(sound.subarray(0, 24_000).every((s) => s === 0)).toBe(true);
    for (const round of [0, 1, 2]) {
      const at = 24_000 + round * 28_800;
      for (let i = 200; i < 28_000; i += 501) expect(sound[at + i]).toBeCloseTo(tone[14_400 + i], 3);
    }
    const largest = sound.reduce((most, s, i) => Math.max(most, i > 0 ? Math.abs(s - sound[i - 1]) : 0), 0);
    expect(largest).toBeLessThan(0.06);
    conductor.stop();
    const tail = new Float32Array(256);
    conductor.render(tail, new Float32Array(256));
    expect(Math.abs(tail[200])).toBe(0);
    expect(Math.abs(tail[1] - tail[0])).toBeLessThan(0.03);
  });
});
