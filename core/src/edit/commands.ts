import { findPart, findTrack, newPart, newTrack, type Part, type Song } from '../song';
import type { Edit, SimpleEdit } from './edit';
import { inTheWay } from './fit';

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

/**
 * The edit that moves a part. What lies in the way is refused when it is applied, or cut out first, as is wished.
 * @param by ticks; back is negative
 */
export function movePart(song: Song, partId: string, trackId: string, by: number, over: 'refuse' | 'cut'): Edit | null {
  const found = findPart(song, partId);
  const track = findTrack(song, trackId);
  if (!found || !track) return null;
  const { part } = found;
  const name = `Move ${part.name}`;
  const move: SimpleEdit = { kind: 'part-move', name, part: partId, track: trackId, by };
  if (over === 'refuse') return move;
  const [start, end] = [part.start + by, part.end + by];
  const edits: SimpleEdit[] = [];
  let id = song.nextId;
  const parts = track.parts.filter((p) => p.id !== partId);
  for (let other: Part | undefined; (other = inTheWay({ ...track, parts }, start, end));) {
    parts.splice(parts.indexOf(other), 1);
    let inside = other.id;
    if (other.start < start) {
      edits.push({ kind: 'part-cut', name, part: inside, at: start, id });
      inside = `p${id++}`;
    }
    if (other.end > end) edits.push({ kind: 'part-cut', name, part: inside, at: end, id: id++ });
    edits.push({ kind: 'parts', name, track: trackId, remove: [inside], add: [] });
  }
  return { kind: 'several', name, edits: [...edits, move] };
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
  const edits: SimpleEdit[] = [];
  let id = song.nextId;
  for (let at = part.end; at < end && at + length <= (next?.start ?? Infinity); at += length) {
    if (edits.length === MOST_COPIES) break;
    edits.push({ kind: 'part-copy', name, part: partId, track: track.id, at, id });
    id += 1 + part.notes.length;
  }
  return edits.length > 0 ? { kind: 'several', name, edits } : null;
}
