import { stepTicks } from '../grid';
import { DEFAULT_TREATMENT, GrooveSchema, SONG_VERSION, type Groove, type Note, type Song } from '../song';
import { asPlayed } from './performance';
import { writeSmf } from './write';
import { writeText } from './text';

/** A groove file that cannot be read; the message says what is wrong. */
export class GrooveFileError extends Error {
  readonly code = 'groove-file';
}

const PPQ = 960;
const KEY = 60;

/** A groove as JSON text. */
export function grooveToJson(groove: Groove): string {
  return `${JSON.stringify(groove, null, 2)}\n`;
}

/** Reads a groove from JSON text. @throws GrooveFileError */
export function grooveFromJson(text: string): Groove {
  let value: unknown;
  try {
    value = JSON.parse(text);
  } catch {
    throw new GrooveFileError('This is not a groove file: it is no JSON.');
  }
  const result = GrooveSchema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new GrooveFileError(`This is not a groove file: at ${issue.path.join('.') || 'its top'} ${issue.message}.`);
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
  const name = writeText(groove.name);
  const song: Song = {
    version: SONG_VERSION,
    name: groove.name,
    ppq: PPQ,
    ppqFactor: 1,
    format: 0,
    tempo: [],
    meter: [],
    tracks: [
      {
        id: 't',
        name: groove.name,
        source: 0,
        parts: [{ id: 'p', name: groove.name, start: 0, on: true, treatment: DEFAULT_TREATMENT, sets: [], notes }],
        events: [{ tick: 0, order: 0, type: 'meta', meta: 3, data: name }],
        end: Math.round(bar * (groove.bars + 1)),
        mute: false,
        solo: false,
        level: 1,
      },
    ],
    chunks: [],
    nextId: notes.length,
  };
  return writeSmf(song, asPlayed(song));
}
