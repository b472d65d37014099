import { holdsInBlocks, inBlocks } from '../maths';
import { MeterMap, TempoMap } from '../time';
import { changedNote, makePlace, type FirstPlace, type Note } from './note';
import type { Part, Song, SongMeter, Track } from './song';

/** Remembers what was built from a list, for as long as the list and the ticks of a quarter note stay. */
function perList<L extends object, V>(build: (ppq: number, list: L) => V): (ppq: number, list: L) => V {
  const known = new WeakMap<L, { ppq: number; value: V }>();
  return (ppq, list) => {
    let found = known.get(list);
    if (found?.ppq !== ppq) known.set(list, (found = { ppq, value: build(ppq, list) }));
    return found.value;
  };
}

const tempoMaps = perList((ppq, tempo: Song['tempo']) => new TempoMap(ppq, tempo));
const meterMaps = perList((ppq, meter: Song['meter']) => new MeterMap(ppq, meter));

/** The song's tempo map; the same object as long as the tempo does not change. */
export function tempoOf(song: Pick<Song, 'tempo' | 'ppq'>): TempoMap {
  return tempoMaps(song.ppq, song.tempo);
}

/** The song's meter map; the same object as long as the meters do not change. */
export function meterOf(song: Pick<Song, 'meter' | 'ppq'>): MeterMap {
  return meterMaps(song.ppq, song.meter);
}

/** The meter that holds at a tick, as a change that begins there; 4/4 where the song names none (RP-001). */
export function meterHeldAt({ meter }: Pick<Song, 'meter'>, tick: number): SongMeter {
  const held = meter.findLast((m) => m.tick <= tick);
  const { numerator, denominator, clocks, thirtySeconds } = held ?? FOUR_FOUR;
  return { tick, numerator, denominator, clocks, thirtySeconds };
}

const FOUR_FOUR = { numerator: 4, denominator: 4, clocks: 24, thirtySeconds: 8 } as const;

/** The order in which a part keeps its notes: start, then pitch, then id. */
export function byPlace(a: Note, b: Note): number {
  return a.start - b.start || a.pitch - b.pitch || a.id - b.id;
}

/** Whether notes are in the order in which a part keeps them. */
export function isInOrder(notes: readonly Note[]): boolean {
  for (let i = 1; i < notes.length; i++) if (byPlace(notes[i - 1], notes[i]) > 0) return false;
  return true;
}

/** A note's place as first recorded, imported or drawn. */
export function takeOf(note: Note): FirstPlace {
  if (note.take) return note.take;
  const { start, length, velocity, order, unended } = note;
  const place = makePlace(start, length, velocity, order);
  if (unended) place.unended = unended;
  return place;
}

/** A note as it was first recorded, imported or drawn: its own places are those of its take. */
export function noteAsTaken(note: Note): Note {
  if (!note.take) return note;
  const { start, length, velocity, order, unended } = note.take;
  return changedNote(note, { start, length, velocity, order, unended, take: undefined });
}

/** Where those of some notes stand that are in a list, by id; ascending. */
export function notesAt(list: readonly Note[], ids: readonly number[]): number[] {
  const { least, at } = idTable(list);
  // Made as long as it can get: a list that grows is copied again and again.
  const found = new Array<number>(ids.length);
  let count = 0;
  let ascends = true;
  inBlocks(ids.length, (from, to) => {
    let next = count;
    for (let k = from; k < to; k++) {
      const i = (at[ids[k] - least] ?? 0) - 1;
      if (i < 0) continue;
      if (next > 0 && found[next - 1] >= i) ascends = false;
      found[next++] = i;
    }
    count = next;
  });
  found.length = count;
  // Most often they are named in the list's order; one that is named twice counts once.
  return ascends ? found : [...new Set(found)].sort((a, b) => a - b);
}

/**
 * Tells that a list is another one with other notes at some places. Where these have the ids of the notes that they replace,
 * it is known where all ids stand.
 */
export function putInPlace(list: readonly Note[], like: readonly Note[], at: readonly number[]): void {
  const table = idTables.get(like);
  if (!table) return;
  const fits = holdsInBlocks(at.length, (from, to) => {
    for (let k = from; k < to; k++) if (table.at[list[at[k]].id - table.least] !== at[k] + 1) return false;
    return true;
  });
  if (fits) idTables.set(list, table);
}

/** Where each note of a list stands, counted from 1, by its id less the least one; 0 for none. */
interface IdTable {
  readonly least: number;
  readonly at: Int32Array | Readonly<Record<number, number>>;
}

const idTables = new WeakMap<readonly Note[], IdTable>();

function idTable(list: readonly Note[]): IdTable {
  let table = idTables.get(list);
  if (!table) idTables.set(list, (table = makeIdTable(list)));
  return table;
}

function makeIdTable(list: readonly Note[]): IdTable {
  let least = list.length > 0 ? Infinity : 0;
  let most = -1;
  for (const { id } of list) {
    if (id < least) least = id;
    if (id > most) most = id;
  }
  // The ids of a song are counted up; those of one part are seldom far apart.
  const dense = most - least < 1000 + 16 * list.length;
  const at: Int32Array | Record<number, number> = dense ? new Int32Array(most - least + 1) : {};
  for (let i = 0; i < list.length; i++) at[list[i].id - least] = i + 1;
  return { least, at };
}

/** All parts of a song with their tracks. */
export function* partsOf(song: Song): Generator<{ track: Track; part: Part }> {
  for (const track of song.tracks) for (const part of track.parts) yield { track, part };
}

/** Finds a part by its id. */
export function findPart(song: Song, partId: string): { track: Track; part: Part } | undefined {
  // Plain loops: a song of thousands of parts is asked for one again and again.
  for (const track of song.tracks) {
    for (const part of track.parts) if (part.id === partId) return { track, part };
  }
  return undefined;
}

/** Finds a track by its id. */
export function findTrack(song: Song, trackId: string): Track | undefined {
  return song.tracks.find((t) => t.id === trackId);
}

const noteEnds = new WeakMap<Part['notes'], number>();

/** Where the last of a part's own notes ends; 0 for none. Ticks. */
function endOfNotes({ notes }: Pick<Part, 'notes'>): number {
  let last = noteEnds.get(notes);
  if (last === undefined) {
    last = 0;
    for (const n of notes) last = Math.max(last, n.start + n.length);
    noteEnds.set(notes, last);
  }
  return last;
}

/**
 * Last tick at which anything happens in the song.
 * @param endOf where the last of a part's own notes ends, where somebody knows without looking at all of them
 */
export function songEnd(song: Song, endOf: (part: Part) => number = endOfNotes): number {
  let end = 0;
  for (const track of song.tracks) {
    end = Math.max(end, track.origin?.end ?? 0);
    for (const part of track.parts) {
      end = Math.max(end, part.events.at(-1)?.tick ?? 0, endOf(part), part.audio ? part.end : 0);
    }
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

/** Replaces a track by its id; the song itself if there is none. */
export function withTrack(song: Song, trackId: string, change: (track: Track) => Track): Song {
  return { ...song, tracks: song.tracks.map((track) => (track.id === trackId ? change(track) : track)) };
}
