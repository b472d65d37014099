import { findPart, newPart, newTrack, type Part, type Song } from '../song';
import { Building } from './building';
import type { Edit } from './edit';

/** The edit that adds an empty track at the end. */
export function addTrack(song: Song, name: string): Edit {
  const track = newTrack(`t${song.nextId}`, name);
  return { kind: 'tracks', name: `Add ${name}`, remove: [], add: [{ at: song.tracks.length, track }] };
}

/** The edit that adds an empty part. Ticks. */
export function addPart(song: Song, trackId: string, name: string, start: number, end: number): Edit {
  const part = newPart(`p${song.nextId}`, name, start, end);
  return { kind: 'parts', name: `Add ${name}`, track: trackId, remove: [], add: [part] };
}

/** So many copies are made at most at one go. */
const MOST_COPIES = 2000;

/** The edit that copies a part again and again behind itself, up to a tick at most; null where no copy has room. */
export function repeatPart(song: Song, partId: string, until: number): Edit | null {
  const found = findPart(song, partId);
  if (!found) return null;
  const { part, track } = found;
  const name = `Repeat ${part.name}`;
  const next = track.parts[track.parts.indexOf(part) + 1] as Part | undefined;
  const end = Math.min(until, next?.start ?? until);
  const length = part.end - part.start;
  const building = new Building(song);
  for (let at = part.end, k = 0; at < end && at + length <= (next?.start ?? Infinity); at += length) {
    if (k++ === MOST_COPIES) break;
    building.add({ kind: 'part-copy', name, part: partId, track: track.id, at, id: building.id() });
  }
  const edit = building.done(name);
  return edit && 'problem' in edit ? null : edit;
}
