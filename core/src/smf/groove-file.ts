import { stepTicks } from '../grid';
import {
  byPlace,
  checkJson,
  GrooveSchema,
  newPart,
  newSong,
  newTrack,
  parseJson,
  type Groove,
  type Note,
} from '../song';
import { asPlayed } from '../performance';
import { writeSmf } from './write';

/** A groove file that cannot be read; the message says what is wrong. */
export class GrooveFileError extends Error {
  readonly code = 'groove-file';
}

const PPQ = 960;
const KEY = 60;
/** A groove's file is of format 0. */
const ONE_TRACK = { format: 0, chunks: [] } as const;

/** A groove as JSON text. */
export function grooveToJson(groove: Groove): string {
  return `${JSON.stringify(groove, null, 2)}\n`;
}

/** Reads a groove from JSON text. @throws GrooveFileError */
export function grooveFromJson(text: string): Groove {
  return checkJson(parseJson(text, 'groove', GrooveFileError), GrooveSchema, 'groove', GrooveFileError);
}

/**
 * A groove as a standard MIDI file: one note a slot on middle C, where the slot's line lies and as loud as it is.
 * It begins one bar in, so that a first slot ahead of the beat has room.
 */
export function grooveToMidi(groove: Groove): Uint8Array {
  const step = stepTicks({ value: groove.value, shape: 'straight' }, PPQ);
  const bar = (groove.slots.length / groove.bars) * step;
  const notes = groove.slots.map((slot, k): Note => ({
    id: k,
    start: Math.round(bar + (k + slot.offset) * step),
    length: Math.round(step / 2),
    pitch: KEY,
    velocity: Math.max(1, Math.min(127, Math.round(slot.velocity * 80))),
    channel: 0,
    release: 64,
  }));
  const end = Math.round(bar * (groove.bars + 1));
  const part = newPart('p', groove.name, 0, end, { notes: notes.sort(byPlace) });
  const track = newTrack('t', groove.name, { parts: [part], origin: { source: 0, name: '', end } });
  const song = { ...newSong(groove.name, PPQ), tracks: [track], nextId: notes.length, origin: ONE_TRACK };
  return writeSmf(song, asPlayed(song));
}
