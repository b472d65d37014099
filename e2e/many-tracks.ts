import { readFileSync } from 'node:fs';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';

/** The demo song as a MIDI file with each of its five tracks so many times. */
export function manyTracks(times: number): Buffer {
  const { song } = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'demo');
  const [conductor, ...players] = song.tracks;
  const copies = Array.from({ length: times }, (_, k) =>
    players.map((track, i) => ({
      ...track,
      origin: { source: 1 + k * players.length + i, name: track.name, end: track.origin?.end ?? 0 },
    })),
  );
  const many = { ...song, tracks: [conductor, ...copies.flat()] };
  return Buffer.from(writeSmf(many, asPlayed(many)));
}
