import { readText, rewriteText, writeText, type Song, type Track, type TrackEvent } from '../song';
import { pieceAt } from '../time';
import { chunk, encodeTrack, joined, type FileEvent } from './encode';
import { firstOut } from './first-out';
import type { Performance, SoundingNote, TrackPerformance } from '../performance';
import { nameEvent, trackTitle, TRACK_NAME } from './title';
import { SET_TEMPO, TIME_SIGNATURE } from './track-reader';

/** An event on its way into the file. Rank orders what moved against what did not at one tick. */
interface Placed {
  readonly tick: number;
  readonly rank: number;
  readonly order: number;
  readonly event: FileEvent;
}

/** At one tick: what begins the track, moved note-offs, moved others, all that stayed in its old order, moved note-ons. */
const RANK = { first: -1, movedOff: 0, movedOther: 1, stayed: 2, movedOn: 3 } as const;

const MARKER = 0x06;

/** A file's track: what is in it, and where it ends. */
interface FileTrack {
  readonly placed: Placed[];
  end: number;
}

/**
 * Writes a song as a standard MIDI file in its own division, the notes and events as the performance has them. Muted
 * notes are left out. A song that came from a file has that file's format and tracks; once tracks were added, removed
 * or put in another order it is written in format 1, tempo first and then a track each.
 */
export function writeSmf(song: Song, performance: Performance): Uint8Array {
  const asItCame = hasItsFile(song);
  const tracks = asItCame ? placeInFile(song, performance) : placeAnew(song, performance);
  const format = asItCame ? (song.origin?.format ?? 1) : 1;
  const { ppq } = song;
  return joined([
    chunk('MThd', Uint8Array.of(0, format, tracks.length >> 8, tracks.length, ppq >> 8, ppq)),
    ...tracks.map(({ placed, end }) => chunk('MTrk', encodeTrack(inOrder(placed), end))),
    ...(song.origin?.chunks ?? []).map(({ type, data }) => chunk(type, data)),
  ]);
}

/** Whether every track of the song is still one of the file that it came from, in the file's order. */
function hasItsFile({ origin, tracks }: Song): boolean {
  if (!origin || tracks.length === 0) return false;
  if (origin.format === 0) {
    // One track of the file holds them all, told apart by their channels.
    return (
      tracks.every((t) => t.origin?.source === 0) && (tracks.length === 1 || tracks.every((t) => t.channel === null))
    );
  }
  return tracks.every((t, i) => t.origin?.source === i);
}

function placeInFile(song: Song, performance: Performance): FileTrack[] {
  const files: FileTrack[] = [];
  song.tracks.forEach((track, i) => {
    const source = track.origin?.source ?? 0;
    const first = !files[source];
    const file = (files[source] ??= { placed: [], end: 0 });
    // A file's track has one name: that of the first of those that it holds.
    const named = first && track.name !== track.origin?.name;
    placeTrack(file.placed, track, performance[i], named);
    file.end = Math.max(file.end, track.origin?.end ?? 0);
  });
  placeTimes(files[0].placed, song);
  return files;
}

function placeAnew(song: Song, performance: Performance): FileTrack[] {
  const files: FileTrack[] = [];
  const leads = song.tracks.length > 0 && song.tracks[0].parts.length === 0;
  if (!leads) files.push({ placed: [nameOf(song.name)], end: 0 });
  song.tracks.forEach((track, i) => {
    const file = { placed: [], end: track.origin?.end ?? 0 };
    placeTrack(file.placed, track, performance[i], track.name !== trackTitle(track.setup, undefined, -1));
    files.push(file);
  });
  placeTimes(files[0].placed, song);
  return files;
}

function nameOf(name: string, data = writeText(name)): Placed {
  return { tick: 0, rank: RANK.first, order: 0, event: { type: 'meta', tick: 0, meta: TRACK_NAME, data } };
}

/** @param named whether the track has another name than its events say */
function placeTrack(placed: Placed[], track: Track, performance: TrackPerformance, named: boolean): void {
  const { notes, joins } = firstOut(performance.notes.filter((n) => !n.note.muted));
  notes.forEach((n, i) => placeNote(placed, n, i, joins(n)));
  const cuts = strayTest(notes, track.setup);
  const old = named ? nameEvent(track.setup) : undefined;
  if (named && !old) placed.push(nameOf(track.name));
  const channel = track.channel ?? notes[0]?.note.channel ?? 0;
  if (track.program !== null) {
    const event = { type: 'program', tick: 0, channel, program: track.program } as const;
    placed.push({ tick: 0, rank: RANK.first, order: 1, event });
  }
  for (const { event, tick, ordered } of performance.events) {
    if (event.type === 'stray-off' && cuts(event.channel, event.pitch, event.tick)) continue;
    if (event.type === 'program' && track.program !== null) continue;
    placed.push({
      tick,
      rank: tick === event.tick ? RANK.stayed : RANK.movedOther,
      order: ordered ? (event.order ?? 0) : placed.length,
      event: event === old ? { ...old, data: rewriteText(track.name, old.data) } : event,
    });
  }
}

/** @param joins whether another note of its key came to start with it: then all are written shortest first */
function placeNote(
  placed: Placed[],
  { note, start, end, velocity, ordered }: SoundingNote,
  index: number,
  joins: boolean,
): void {
  const { channel, pitch } = note;
  const [onOrder, offOrder] = (ordered && note.order) || [null, null];
  // Equal starts of one pitch go shortest first: first-in first-out reading then gives the same lengths back.
  const movedOnOrder = (end - start) * 1e6 + index;
  const startStayed = !joins && onOrder !== null && start === note.start;
  // A note that begins and ends at one tick must not end before it begins.
  const apart = end > start || startStayed;
  const endStayed = apart && offOrder !== null && end === note.start + note.length;
  const offRank = endStayed ? RANK.stayed : end === start ? RANK.movedOn : RANK.movedOff;
  placed.push({
    tick: start,
    rank: startStayed ? RANK.stayed : RANK.movedOn,
    order: startStayed ? onOrder : movedOnOrder,
    event: { type: 'on', channel, pitch, velocity },
  });
  // What had no end in its file gets none, unless a stage gave it one.
  if (note.unended && end === note.start + note.length) return;
  placed.push({
    tick: end,
    rank: offRank,
    order: endStayed ? offOrder : offRank === RANK.movedOn ? movedOnOrder + 0.5 : index,
    event: { type: 'off', channel, pitch, velocity: note.release },
  });
}

/** Tells whether a note-off that ended nothing as played would now cut a note. */
function strayTest(
  notes: readonly SoundingNote[],
  setup: readonly TrackEvent[],
): (channel: number, pitch: number, tick: number) => boolean {
  const keys = new Map<number, SoundingNote[]>();
  for (const e of setup) if (e.type === 'stray-off') keys.set(e.channel * 128 + e.pitch, []);
  if (keys.size === 0) return () => false;
  for (const n of notes) keys.get(n.note.channel * 128 + n.note.pitch)?.push(n);
  const spans = new Map<number, { starts: number[]; latest: number[] }>();
  for (const [key, list] of keys) {
    list.sort((a, b) => a.start - b.start);
    // Each knows the latest end up to it, so that one look answers.
    let end = 0;
    spans.set(key, { starts: list.map((n) => n.start), latest: list.map((n) => (end = Math.max(end, n.end))) });
  }
  return (channel, pitch, tick) => {
    const found = spans.get(channel * 128 + pitch);
    if (!found || found.starts.length === 0) return false;
    const last = pieceAt(found.starts, tick - 1);
    return found.starts[last] < tick && found.latest[last] > tick;
  };
}

function placeTimes(placed: Placed[], song: Song): void {
  const place = (tick: number, order: number | undefined, meta: number, data: Uint8Array) =>
    placed.push({ tick, rank: RANK.stayed, order: order ?? -1, event: { type: 'meta', tick, meta, data } });
  for (const { tick, order, usPerQuarter: us } of song.tempo) {
    place(tick, order, SET_TEMPO, Uint8Array.of(us >> 16, us >> 8, us));
  }
  for (const { tick, order, numerator, denominator, clocks, thirtySeconds } of song.meter) {
    place(tick, order, TIME_SIGNATURE, Uint8Array.of(numerator, Math.log2(denominator), clocks, thirtySeconds));
  }
  for (const { tick, name, origin } of song.markers) {
    const same = origin && name === readText(origin.data).slice(0, 1000);
    const data = !origin ? writeText(name) : same ? origin.data : rewriteText(name, origin.data);
    place(tick, origin?.order, MARKER, data);
  }
}

function inOrder(placed: Placed[]): Placed[] {
  return placed.sort((a, b) => a.tick - b.tick || a.rank - b.rank || a.order - b.order);
}
