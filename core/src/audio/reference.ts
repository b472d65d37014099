import type { Edit } from '../edit';
import { meterOf, newPart, newTrack, tempoOf, type Note, type Song } from '../song';
import type { Ms } from '../time';
import type { Hit } from './onsets';

/** A hit's note: a short one, at a key of its own. */
const PITCH = 76;
const LENGTH_OF_STEP = 1 / 8;
const SOFTEST = 30;

/** How many whole bars a recording of a length most likely is, in the tempo that the song begins with. */
export function barsOf(length: Ms, song: Song): number {
  const bar = tempoOf(song).between(0, meterOf(song).pieceAt(0).barTicks);
  return Math.max(1, Math.round(length / bar));
}

/**
 * The edit that brings a recording's hits into a song as a track: a note for each, as loud as it is strong. Its length
 * becomes a number of bars, whatever their tempo: so its swing and its groove can be measured, seen against the lines,
 * lifted, lined up with, and its hits put right by hand, as those of any other track. Null without hits.
 * @param length of the recording
 */
export function referenceEdit(song: Song, name: string, hits: readonly Hit[], length: Ms, bars: number): Edit | null {
  if (hits.length === 0) return null;
  const { barTicks } = meterOf(song).pieceAt(0);
  const end = bars * barTicks;
  let { nextId } = song;
  const id = `t${nextId++}`;
  const notes = hits.map(({ ms, strength }): Note => ({
    id: nextId++,
    start: Math.min(end - 1, Math.round((ms / length) * end)),
    length: Math.max(1, Math.round(song.ppq * LENGTH_OF_STEP)),
    pitch: PITCH,
    velocity: Math.round(SOFTEST + (127 - SOFTEST) * Math.sqrt(strength)),
    channel: 0,
    release: 64,
  }));
  const part = newPart(`p${nextId++}`, name, 0, end, { notes });
  const track = newTrack(id, name, { voice: 'plain', parts: [part] });
  return {
    kind: 'tracks',
    name: `Bring in ${name}`,
    remove: [],
    add: [{ at: song.tracks.length, track }],
  };
}
