import { parseMidi, type MidiEvent } from 'midi-file';
import type { Note, SongMeter, SongTempo, TrackEvent } from '../song';
import type { SafeTrack } from './track-bytes';

/** One track's contents with absolute ticks in the file's own division. */
export interface DecodedTrack {
  readonly notes: readonly Omit<Note, 'id'>[];
  readonly events: readonly TrackEvent[];
  readonly tempo: readonly SongTempo[];
  readonly meter: readonly SongMeter[];
  readonly end: number;
  /** Notes that no note-off ended. */
  readonly unended: number;
}

interface OpenNote {
  readonly start: number;
  readonly velocity: number;
  readonly order: number;
}

/**
 * Decodes a secured track. Notes of one channel and pitch that overlap are paired first-in
 * first-out; a note without an end lasts to the end of the track.
 */
export function decodeTrack(track: SafeTrack): DecodedTrack {
  const notes: Omit<Note, 'id'>[] = [];
  const events: TrackEvent[] = [];
  const tempo: SongTempo[] = [];
  const meter: SongMeter[] = [];
  const open = new Map<number, OpenNote[]>();
  let tick = 0;
  let metas = 0;
  let unended = 0;

  const close = (pitch: number, channel: number, note: OpenNote, end: number, release: number | null, order: number) =>
    notes.push({
      start: note.start,
      length: end - note.start,
      pitch,
      velocity: note.velocity,
      channel,
      release,
      order: [note.order, order],
    });

  const list = parseTrack(track.bytes);
  list.forEach((event, order) => {
    tick += event.deltaTime;
    const channel = event.channel ?? 0;
    const pitch = event.noteNumber ?? 0;
    const key = channel * 128 + pitch;
    const metaType = event.meta ? track.metaTypes[metas++] : 0;
    switch (event.type) {
      case 'noteOn': {
        const waiting = open.get(key);
        const note = { start: tick, velocity: event.velocity ?? 64, order };
        if (waiting) waiting.push(note);
        else open.set(key, [note]);
        break;
      }
      case 'noteOff': {
        const note = open.get(key)?.shift();
        const release = event.byte9 ? null : (event.velocity ?? 0);
        if (note) close(pitch, channel, note, tick, release, order);
        else events.push({ tick, order, type: 'stray-off', channel, pitch, velocity: release });
        break;
      }
      case 'setTempo':
        tempo.push({ tick, order, usPerQuarter: event.microsecondsPerBeat ?? 500_000 });
        break;
      case 'timeSignature':
        meter.push({
          tick,
          order,
          numerator: event.numerator ?? 4,
          denominator: event.denominator ?? 4,
          clocks: event.metronome ?? 24,
          thirtySeconds: event.thirtyseconds ?? 8,
        });
        break;
      case 'endOfTrack':
        break;
      default:
        events.push(otherEvent(event, tick, order, metaType));
    }
  });
  for (const [key, waiting] of open) {
    for (const note of waiting) {
      close(key % 128, Math.floor(key / 128), note, tick, 64, list.length + unended++);
      notes[notes.length - 1] = { ...notes[notes.length - 1], unended: true };
    }
  }
  return { notes, events, tempo, meter, end: tick, unended };
}

function otherEvent(event: MidiEvent, tick: number, order: number, meta: number): TrackEvent {
  const at = { tick, order };
  const channel = event.channel ?? 0;
  const data = Uint8Array.from(event.data ?? []);
  switch (event.type) {
    case 'controller':
      return { ...at, type: 'controller', channel, controller: event.controllerType ?? 0, value: event.value ?? 0 };
    case 'pitchBend':
      return { ...at, type: 'bend', channel, value: event.value ?? 0 };
    case 'channelAftertouch':
      return { ...at, type: 'pressure', channel, value: event.amount ?? 0 };
    case 'noteAftertouch':
      return { ...at, type: 'key-pressure', channel, pitch: event.noteNumber ?? 0, value: event.amount ?? 0 };
    case 'programChange':
      return { ...at, type: 'program', channel, program: event.programNumber ?? 0 };
    case 'sysEx':
      return { ...at, type: 'sysex', data };
    case 'endSysEx':
      return { ...at, type: 'sysex-part', data };
    default:
      return { ...at, type: 'meta', meta, data };
  }
}

/** Hands one track to the byte reader in a file of its own. */
function parseTrack(track: Uint8Array): MidiEvent[] {
  const file = new Uint8Array(22 + track.length);
  file.set([0x4d, 0x54, 0x68, 0x64, 0, 0, 0, 6, 0, 1, 0, 1, 0, 96, 0x4d, 0x54, 0x72, 0x6b]);
  new DataView(file.buffer).setUint32(18, track.length);
  file.set(track, 22);
  return parseMidi(file).tracks[0];
}
