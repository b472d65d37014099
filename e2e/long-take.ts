import { readFileSync } from 'node:fs';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';

/** One track of so many notes: sixteenths over three octaves, a little off their lines. */
export function longTake(count: number): Buffer {
  const { song } = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'demo');
  const track = song.tracks.find((t) => t.parts.length > 0);
  if (!track) throw new Error('The demo has no notes.');
  const notes = Array.from({ length: count }, (_, i) => ({
    id: i,
    start: i * 120 + ((i * 7919) % 41),
    length: 90,
    pitch: 48 + ((i * 7) % 36),
    velocity: 50 + ((i * 13) % 60),
    channel: 0,
    release: null,
  }));
  const part = { ...track.parts[0], end: count * 120 + 120, notes, events: [] };
  const long = { ...song, nextId: Math.max(song.nextId, count), tracks: [{ ...track, parts: [part] }] };
  return Buffer.from(writeSmf(long, asPlayed(long)));
}
