import type { Edit, SimpleEdit } from '../edit';
import {
  fileAt,
  fine,
  meterOf,
  newPart,
  newTrack,
  songEnd,
  tempoOf,
  tickOfFile,
  type Anchor,
  type Note,
  type Part,
  type PartAudio,
  type Song,
} from '../song';
import type { Ms, Ticks } from '../time';
import type { Hit } from './onsets';

/** A hit's note: a short one, at a key of its own. */
const PITCH = 76;
const LENGTH_OF_STEP = 1 / 8;
const SOFTEST = 30;

/** A sound file that was listened to. */
export interface Heard {
  readonly name: string;
  /** SHA-256 of its bytes, in hex. */
  readonly file: string;
  /** Its length. */
  readonly ms: Ms;
  readonly hits: readonly Hit[];
}

/**
 * How a file comes to lie in a song: `fit`, its speed is changed so that it fills the bars; `set`, the song gets the
 * tempo at which it fills them; `own`, it runs at its own speed, however many bars that is.
 */
export type Fitting = 'fit' | 'set' | 'own';

export interface Placing {
  /** The bar at which it begins, from 1. */
  readonly bar: number;
  /** So many bars it is long; of no meaning where it keeps its own speed. */
  readonly bars: number;
  readonly fitting: Fitting;
}

/** How many whole bars a file of a length most likely is, in the tempo that the song begins with. */
export function barsOf(length: Ms, song: Song): number {
  const one = tempoOf(song).between(0, meterOf(song).pieceAt(0).barTicks);
  return Math.max(1, Math.round(length / one));
}

/** How fast a file runs where it fills so many bars of the song's tempo: 1 at its own speed, 2 twice as fast. */
export function speedOf(length: Ms, song: Song, { bar, bars }: Pick<Placing, 'bar' | 'bars'>): number {
  const { from, to } = spanOf(song, bar, bars);
  return length / tempoOf(song).between(from, to);
}

/** The tempo at which a file fills so many bars, in quarter notes a minute. */
export function tempoFor(length: Ms, song: Song, { bar, bars }: Pick<Placing, 'bar' | 'bars'>): number {
  const { from, to } = spanOf(song, bar, bars);
  return ((to - from) / song.ppq / length) * 60_000;
}

function spanOf(song: Song, bar: number, bars: number): { from: Ticks; to: Ticks } {
  const meter = meterOf(song);
  return { from: meter.tickOfBar(bar), to: meter.tickOfBar(bar + bars) };
}

/**
 * The edit that brings a sound file into a song as a track that plays it along, with a note for each of its hits, as
 * loud as it is strong: so its swing and its groove can be measured, seen against the lines, lifted, lined up with, and
 * its hits put right by hand, as those of any other track.
 */
export function soundFileEdit(song: Song, heard: Heard, placing: Placing): Edit {
  const name = `Import ${heard.name}`;
  const { from, to } = spanOf(song, placing.bar, placing.bars);
  const anchors = placing.fitting === 'own' ? ownSpeed(song, from, heard.ms) : spread(from, to, heard.ms);
  const end = Math.ceil(anchors[anchors.length - 1].tick);
  const audio: PartAudio = { file: heard.file, name: heard.name, ms: heard.ms, anchors, heard: 'file' };
  let { nextId } = song;
  const id = `t${nextId++}`;
  const notes = heard.hits.map((hit) => hitNote(nextId++, hit, audio, end, song.ppq));
  const part = newPart(`p${nextId++}`, heard.name, from, end, { notes, audio });
  const track = newTrack(id, heard.name, { voice: 'plain', parts: [part] });
  const bring: SimpleEdit = { kind: 'tracks', name, remove: [], add: [{ at: song.tracks.length, track }] };
  if (placing.fitting !== 'set') return bring;
  return { kind: 'several', name, edits: [tempoEdit(name, song, anchors), bring] };
}

/** A hit as a note. */
function hitNote(id: number, { ms, strength }: Hit, audio: PartAudio, end: Ticks, ppq: number): Note {
  return {
    id,
    start: Math.min(end - 1, Math.round(tickOfFile(audio, ms))),
    length: Math.max(1, Math.round(ppq * LENGTH_OF_STEP)),
    pitch: PITCH,
    velocity: Math.round(SOFTEST + (127 - SOFTEST) * Math.sqrt(strength)),
    channel: 0,
    release: 64,
  };
}

/** Two hits closer than this are one. */
const APART: Ms = 15;

/** The edit that adds a hit to a part with a sound file; null where it has one there. @param hit at a time of the file */
export function addHitEdit(song: Song, part: Part, hit: Hit): Edit | null {
  const { audio } = part;
  if (!audio) return null;
  if (part.notes.some((n) => Math.abs(fileAt(audio, n.start) - hit.ms) < APART)) return null;
  const note = hitNote(song.nextId, hit, audio, part.end, song.ppq);
  return { kind: 'notes', name: `Add a hit to ${part.name}`, part: part.id, remove: [], add: [note] };
}

/** The edit that gives the song the tempo at which a part's sound file runs at its own speed. Everything stays in its bar. */
export function ownTempoEdit(song: Song, part: Part): Edit | null {
  const { audio } = part;
  if (!audio) return null;
  const { anchors } = audio;
  const from = Math.max(0, part.start);
  const inside = anchors.filter((a) => a.tick > from && a.tick < part.end);
  const ends = [from, part.end].map((tick): Anchor => ({ tick, ms: fileAt(audio, tick) }));
  return tempoEdit(`The tempo of ${part.name}`, song, [ends[0], ...inside, ends[1]]);
}

/** From its first bar line to its last, evenly. */
function spread(from: Ticks, to: Ticks, ms: Ms): Anchor[] {
  return [
    { tick: from, ms: 0 },
    { tick: to, ms },
  ];
}

/** At its own speed, whatever the tempo does under it. */
function ownSpeed(song: Song, from: Ticks, length: Ms): Anchor[] {
  const tempo = tempoOf(song);
  const begin = tempo.toMs(from);
  const end = tempo.toTick(begin + length);
  const changes = [...tempo.ticks].filter((tick) => tick > from && tick < end);
  return [from, ...changes, end].map((tick) => ({ tick: fine(tick), ms: tempo.toMs(tick) - begin }));
}

/** A tempo between anchors such that the file runs at its own speed; a song of one tempo keeps it from there on. */
function tempoEdit(name: string, song: Song, anchors: readonly Anchor[]): SimpleEdit {
  const tempo = tempoOf(song);
  const from = Math.round(anchors[0].tick);
  const to = Math.round(anchors[anchors.length - 1].tick);
  const changes = anchors.slice(1).map((b, i) => {
    const a = anchors[i];
    const usPerQuarter = Math.round(((b.ms - a.ms) * 1000 * song.ppq) / (b.tick - a.tick));
    return { tick: Math.round(a.tick), usPerQuarter: Math.min(0xffffff, Math.max(1, usPerQuarter)) };
  });
  if (tempo.constant) {
    // What comes before a file that begins later keeps its tempo.
    const before = from > 0 ? song.tempo.filter((c) => c.tick === 0) : [];
    return { kind: 'tempo', name, to: [...before, ...changes] };
  }
  const goesOn = to < songEnd(song) ? [{ tick: to, usPerQuarter: Math.round(60e6 / tempo.bpmAt(to)) }] : [];
  const others = (inside: (tick: Ticks) => boolean) => song.tempo.filter((c) => inside(c.tick));
  return {
    kind: 'tempo',
    name,
    to: [...others((t) => t < from), ...changes, ...goesOn, ...others((t) => t > to)],
  };
}
