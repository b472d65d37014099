import { PLAIN_MIX, PLAIN_SOUND, SONG_VERSION, type Part, type Song, type Track } from './song';
import { DEFAULT_TREATMENT } from './treatment';

/** A song with nothing in it, at 120 BPM in 4/4. */
export function newSong(name: string, ppq = 960): Song {
  return { version: SONG_VERSION, name, ppq, tempo: [], meter: [], markers: [], tracks: [], nextId: 0 };
}

/** A track with nothing in it. */
export function newTrack(id: string, name: string, more: Partial<Track> = {}): Track {
  return { id, name, colour: null, ...PLAIN_SOUND, ...PLAIN_MIX, parts: [], setup: [], ...more };
}

/** A part with nothing in it, whose treatment does nothing yet. Ticks. */
export function newPart(id: string, name: string, start: number, end: number, more: Partial<Part> = {}): Part {
  const treatment = DEFAULT_TREATMENT;
  const empty = { colour: null, on: true, muted: false, treatment, sets: [], notes: [], events: [] };
  return { id, name, start, end, ...empty, ...more };
}
