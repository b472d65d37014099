import { writeMidi, type MidiEvent } from 'midi-file';
import type { Song, Track, TrackEvent } from '../song';
import { MAX_DELTA } from './chunks';
import type { Performance, SoundingNote, TrackPerformance } from './performance';
import { writeText } from './text';

/** An event on its way into the file. Rank orders what moved against what did not at one tick. */
interface Placed {
  readonly tick: number;
  readonly rank: number;
  readonly order: number;
  readonly event: MidiEvent;
}

/** At one tick: moved note-offs, moved others, all that stayed in its old order, moved note-ons. */
const RANK = { movedOff: 0, movedOther: 1, stayed: 2, movedOn: 3 } as const;

/**
 * Writes a song as a standard MIDI file in its own format (0 or 1) and division, the notes and
 * events as the performance has them. Muted notes are left out.
 */
export function writeSmf(song: Song, performance: Performance): Uint8Array {
  const sources = Math.max(0, ...song.tracks.map((t) => t.source)) + 1;
  const tracks = Array.from({ length: sources }, (): Placed[] => []);
  const ends = new Array<number>(sources).fill(0);
  song.tracks.forEach((track, i) => {
    tracks[track.source].push(...placeTrack(performance[i]));
    ends[track.source] = Math.max(ends[track.source], track.end);
  });
  tracks[0].push(...placeConductor(song));
  return joinChunks([
    chunk('MThd', Uint8Array.of(0, song.format, sources >> 8, sources, song.ppq >> 8, song.ppq)),
    ...tracks.map((placed, i) => chunk('MTrk', encode(inOrder(placed, ends[i])))),
    ...song.chunks.map(({ type, data }) => chunk(type, data)),
  ]);
}

function placeTrack(track: TrackPerformance): Placed[] {
  const placed: Placed[] = [];
  const sounding = track.notes.filter((n) => !n.note.muted);
  // Where one of a key's equal starts moved, all of them are written shortest first, those that stayed too.
  const joined = new Set(sounding.filter((n) => n.start !== n.note.start).map(keyAndStart));
  sounding.forEach((n, i) => placed.push(...placeNote(n, i, joined.has(keyAndStart(n)))));
  for (const event of track.events) {
    if (event.type === 'stray-off' && endsAnother(event, sounding)) continue;
    placed.push({
      tick: event.tick,
      rank: track.moved.has(event) ? RANK.movedOther : RANK.stayed,
      order: event.order,
      event: toMidi(event),
    });
  }
  return placed;
}

function keyAndStart({ note, start }: SoundingNote): string {
  return `${note.channel}.${note.pitch}.${start}`;
}

/** @param joined whether another note of its key came to start with it */
function placeNote({ note, start, end, velocity }: SoundingNote, index: number, joined: boolean): Placed[] {
  const noteOn = { deltaTime: 0, type: 'noteOn', channel: note.channel, noteNumber: note.pitch, velocity };
  const noteOff: MidiEvent = {
    deltaTime: 0,
    type: 'noteOff',
    channel: note.channel,
    noteNumber: note.pitch,
    velocity: note.release ?? 0,
    ...(note.release === null ? { byte9: true } : {}),
  };
  const [onOrder, offOrder] = note.order ?? [null, null];
  // Equal starts of one pitch go shortest first: first-in first-out reading then gives the same lengths back.
  const movedOnOrder = (end - start) * 1e6 + index;
  const startStayed = !joined && onOrder !== null && start === note.start;
  const endStayed = offOrder !== null && end === note.start + note.length;
  // A note that begins and ends at one tick must not end before it begins.
  const offRank = endStayed ? RANK.stayed : end === start ? RANK.movedOn : RANK.movedOff;
  const placedOn = {
    tick: start,
    rank: startStayed ? RANK.stayed : RANK.movedOn,
    order: startStayed ? onOrder : movedOnOrder,
    event: noteOn,
  };
  // What had no end in its file gets none, unless a stage gave it one.
  if (note.unended && endStayed) return [placedOn];
  const placedOff = {
    tick: end,
    rank: offRank,
    order: endStayed ? offOrder : offRank === RANK.movedOn ? movedOnOrder + 0.5 : index,
    event: noteOff,
  };
  return [placedOn, placedOff];
}

/** Whether a note-off that ended nothing as played would now cut a note. */
function endsAnother(off: Extract<TrackEvent, { type: 'stray-off' }>, notes: readonly SoundingNote[]): boolean {
  return notes.some(
    (n) => n.note.channel === off.channel && n.note.pitch === off.pitch && n.start < off.tick && off.tick < n.end,
  );
}

function placeConductor(song: Song): Placed[] {
  const meta = { rank: RANK.stayed, deltaTime: 0, meta: true };
  return [
    ...song.tempo.map((t) => ({
      tick: t.tick,
      rank: RANK.stayed,
      order: t.order,
      event: { ...meta, type: 'setTempo', microsecondsPerBeat: t.usPerQuarter },
    })),
    ...song.meter.map((m) => ({
      tick: m.tick,
      rank: RANK.stayed,
      order: m.order,
      event: {
        ...meta,
        type: 'timeSignature',
        numerator: m.numerator,
        denominator: m.denominator,
        metronome: m.clocks,
        thirtyseconds: m.thirtySeconds,
      },
    })),
  ];
}

function toMidi(event: TrackEvent): MidiEvent {
  const at = { deltaTime: 0 };
  switch (event.type) {
    case 'controller':
      return {
        ...at,
        type: 'controller',
        channel: event.channel,
        controllerType: event.controller,
        value: event.value,
      };
    case 'bend':
      return { ...at, type: 'pitchBend', channel: event.channel, value: event.value };
    case 'pressure':
      return { ...at, type: 'channelAftertouch', channel: event.channel, amount: event.value };
    case 'key-pressure':
      return { ...at, type: 'noteAftertouch', channel: event.channel, noteNumber: event.pitch, amount: event.value };
    case 'program':
      return { ...at, type: 'programChange', channel: event.channel, programNumber: event.program };
    case 'stray-off':
      return {
        ...at,
        type: 'noteOff',
        channel: event.channel,
        noteNumber: event.pitch,
        velocity: event.velocity ?? 0,
        ...(event.velocity === null ? { byte9: true } : {}),
      };
    case 'sysex':
      return { ...at, type: 'sysEx', data: event.data };
    case 'sysex-part':
      return { ...at, type: 'endSysEx', data: event.data };
    case 'meta':
      return metaEvent(event.meta, event.data);
  }
}

function metaEvent(metatypeByte: number, data: Uint8Array): MidiEvent {
  return { deltaTime: 0, meta: true, type: 'unknownMeta', metatypeByte, data };
}

/** Sorts a track's events and turns ticks into distances; a distance too long for the format is bridged by empty texts. */
function inOrder(placed: Placed[], end: number): MidiEvent[] {
  placed.sort((a, b) => a.tick - b.tick || a.rank - b.rank || a.order - b.order);
  const events: MidiEvent[] = [];
  let at = 0;
  const push = (tick: number, event: MidiEvent) => {
    while (tick - at > MAX_DELTA) {
      events.push({ ...metaEvent(0x01, writeText('')), deltaTime: MAX_DELTA });
      at += MAX_DELTA;
    }
    events.push({ ...event, deltaTime: tick - at });
    at = tick;
  };
  for (const { tick, event } of placed) push(tick, event);
  push(Math.max(end, at), { deltaTime: 0, meta: true, type: 'endOfTrack' });
  return events;
}

/** Events handed to the byte writer at once: it copies all it has written for every event. */
const BATCH = 64;
/** Bytes that the byte writer puts before a lone track's events. */
const PREAMBLE = 22;

function encode(events: readonly MidiEvent[]): Uint8Array {
  const header = { format: 1, numTracks: 1, ticksPerBeat: 96 };
  const bytes: number[] = [];
  for (let i = 0; i < events.length; i += BATCH) {
    const file = writeMidi({ header, tracks: [events.slice(i, i + BATCH)] });
    for (let k = PREAMBLE; k < file.length; k++) bytes.push(file[k]);
  }
  return Uint8Array.from(bytes);
}

function chunk(type: string, data: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + data.length);
  bytes.set(writeText(type));
  new DataView(bytes.buffer).setUint32(4, data.length);
  bytes.set(data, 8);
  return bytes;
}

function joinChunks(chunks: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(chunks.reduce((sum, c) => sum + c.length, 0));
  let at = 0;
  for (const c of chunks) {
    whole.set(c, at);
    at += c.length;
  }
  return whole;
}

/** Renames a track: its name and the event that carries it. */
export function renameTrack(track: Track, name: string): Track {
  const index = track.events.findIndex((e) => e.type === 'meta' && e.meta === 0x03);
  const old = track.events[index];
  const event: TrackEvent = {
    tick: old?.tick ?? 0,
    order: old?.order ?? -1,
    type: 'meta',
    meta: 0x03,
    data: writeText(name),
  };
  const events = index < 0 ? [event, ...track.events] : track.events.with(index, event);
  return { ...track, name, events };
}
