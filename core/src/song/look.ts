import { MeterMap, TempoMap } from '../time';
import type { Note, Part, Song, Take, Track } from './song';

const tempoMaps = new WeakMap<Song['tempo'], TempoMap>();
const meterMaps = new WeakMap<Song['meter'], MeterMap>();

/** The song's tempo map; the same object as long as the tempo does not change. */
export function tempoOf(song: Pick<Song, 'tempo' | 'ppq'>): TempoMap {
  let map = tempoMaps.get(song.tempo);
  if (!map) tempoMaps.set(song.tempo, (map = new TempoMap(song.ppq, song.tempo)));
  return map;
}

/** The song's meter map; the same object as long as the meters do not change. */
export function meterOf(song: Pick<Song, 'meter' | 'ppq'>): MeterMap {
  let map = meterMaps.get(song.meter);
  if (!map) meterMaps.set(song.meter, (map = new MeterMap(song.ppq, song.meter)));
  return map;
}

/** The order in which a part keeps its notes: start, then pitch, then id. */
export function byPlace(a: Note, b: Note): number {
  return a.start - b.start || a.pitch - b.pitch || a.id - b.id;
}

/** A note's place as first recorded, imported or drawn. */
export function takeOf(note: Note): Take {
  if (note.take) return note.take;
  const { start, length, velocity, order, unended } = note;
  return { start, length, velocity, ...(order ? { order } : {}), ...(unended ? { unended } : {}) };
}

/** A note as it was first recorded, imported or drawn: its own places are those of its take. */
export function noteAsTaken(note: Note): Note {
  if (!note.take) return note;
  const { take, order: _order, unended: _unended, ...rest } = note;
  return { ...rest, ...take };
}

/** All parts of a song with their tracks. */
export function* partsOf(song: Song): Generator<{ track: Track; part: Part }> {
  for (const track of song.tracks) for (const part of track.parts) yield { track, part };
}

/** Finds a part by its id. */
export function findPart(song: Song, partId: string): { track: Track; part: Part } | undefined {
  for (const found of partsOf(song)) if (found.part.id === partId) return found;
  return undefined;
}

/** Last tick at which anything happens in the song. */
export function songEnd(song: Song): number {
  let end = 0;
  for (const track of song.tracks) {
    end = Math.max(end, track.end);
    for (const part of track.parts) for (const n of part.notes) end = Math.max(end, n.start + n.length);
  }
  return end;
}

/** Number of notes in a track. */
export function noteCount(track: Track): number {
  return track.parts.reduce((sum, part) => sum + part.notes.length, 0);
}

/** Replaces a part by its id; the song itself if there is none. */
export function withPart(song: Song, partId: string, change: (part: Part) => Part): Song {
  return {
    ...song,
    tracks: song.tracks.map((track) =>
      track.parts.some((p) => p.id === partId)
        ? { ...track, parts: track.parts.map((p) => (p.id === partId ? change(p) : p)) }
        : track,
    ),
  };
}
