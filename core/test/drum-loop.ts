import { asPlayed } from '@early-sparrow/core/performance';
import { mixOf, renderSpan, scoresOf, wholeSpan } from '@early-sparrow/core/sound';
import { newPart, newSong, newTrack, type Song } from '@early-sparrow/core/song';
import { note } from './build';

/** Samples a second of a drum loop, and its length in ms. */
export const LOOP_RATE = 44_100;
export const LOOP_LENGTH = 4000;

/** Two bars of drums at 120 BPM, sixteenths of hi-hats swung, as sound of exactly their length. */
export function drumLoop(swing: number): { samples: Float32Array; places: number[] } {
  const drums = { channel: 9, length: 60 };
  const hats = Array.from({ length: 32 }, (_, i) => {
    const start = Math.round(Math.floor(i / 2) * 480 + (i % 2) * 480 * swing);
    return note(i, start, { ...drums, pitch: 42, velocity: i % 4 === 0 ? 100 : 70 });
  });
  const backs = [0, 4, 8, 10, 12].map((s, i) =>
    note(50 + i, s * 480, { ...drums, pitch: i % 2 ? 38 : 36, velocity: 110 }),
  );
  const notes = [...hats, ...backs].sort((a, b) => a.start - b.start || a.pitch - b.pitch);
  const part = newPart('p', 'Drums', 0, 7680, { notes });
  const song: Song = { ...newSong('Loop'), tracks: [newTrack('t', 'Drums', { parts: [part] })], nextId: 100 };
  const [left] = renderSpan(
    { scores: scoresOf(song, asPlayed(song)), mix: mixOf(song), span: wholeSpan(song), rate: LOOP_RATE },
    null,
  );
  const samples = new Float32Array((LOOP_LENGTH / 1000) * LOOP_RATE);
  samples.set(left.subarray(0, samples.length));
  return { samples, places: [...new Set(notes.map((n) => (n.start * 500) / 960))].sort((a, b) => a - b) };
}
