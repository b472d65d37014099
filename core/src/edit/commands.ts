import { findPart, findTrack, newPart, newTrack, type Part, type Song } from '../song';
import { Building } from './building';
import type { Edit } from './edit';
import { inTheWay } from './fit';
import type { EditProblem } from './kind';

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
export function movePart(
  song: Song,
  partId: string,
  trackId: string,
  by: number,
  over: 'refuse' | 'cut',
): Edit | EditProblem | null {
  const found = findPart(song, partId);
  if (!found || !findTrack(song, trackId)) return null;
  const { part } = found;
  const name = `Move ${part.name}`;
  const building = new Building(song);
  if (over === 'cut') cutOut(building, trackId, partId, part.start + by, part.end + by, name);
  return building.add({ kind: 'part-move', name, part: partId, track: trackId, by }).done(name);
}

/** Cuts what lies in a span out of a track, but for one part. */
function cutOut(building: Building, trackId: string, except: string, start: number, end: number, name: string): void {
  const other = (): Part | undefined => {
    const track = findTrack(building.song, trackId);
    return track && inTheWay(track, start, end, except);
  };
  for (let part = other(); part; part = other()) {
    let inside = part.id;
    if (part.start < start) {
      const id = building.id();
      building.add({ kind: 'part-cut', name, part: inside, at: start, id });
      inside = `p${id}`;
    }
    if (part.end > end) building.add({ kind: 'part-cut', name, part: inside, at: end, id: building.id() });
    const before = building.song;
    building.add({ kind: 'parts', name, track: trackId, remove: [inside], add: [] });
    if (building.song === before) return;
  }
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
