import { inBlocks } from '../maths';
import type { Kin, Note } from '../song';

/**
 * Notes as columns of numbers, sorted by start, then pitch: what the stages compute on.
 * A note costs 29 bytes here against about a hundred as an object, and the passes run in order.
 */
export interface NoteColumns {
  readonly count: number;
  readonly id: Uint32Array;
  /** Ticks. */
  readonly start: Float64Array;
  /** Ticks. */
  readonly end: Float64Array;
  readonly pitch: Uint8Array;
  readonly channel: Uint8Array;
  readonly velocity: Uint8Array;
  /** The note's voice: its pitch on its channel, as one number below {@link VOICES}. */
  readonly voice: Uint16Array;
}

const COLUMNS = ['id', 'start', 'end', 'pitch', 'channel', 'velocity', 'voice'] as const;

/** Number of different voices: a voice is one pitch on one channel. */
export const VOICES = 16 * 128;

export function voiceOf(channel: number, pitch: number): number {
  return channel * 128 + pitch;
}

export function emptyColumns(count: number): NoteColumns {
  return {
    count,
    id: new Uint32Array(count),
    start: new Float64Array(count),
    end: new Float64Array(count),
    pitch: new Uint8Array(count),
    channel: new Uint8Array(count),
    velocity: new Uint8Array(count),
    voice: new Uint16Array(count),
  };
}

const pitchRanges = new WeakMap<Uint8Array, PitchRange>();

/** Lowest and highest pitch of some notes; of none, 127 and 0. */
export interface PitchRange {
  readonly lowest: number;
  readonly highest: number;
}

/** What a column of pitches ranges over; remembered as long as the column is. */
export function pitchRange(pitch: Uint8Array): PitchRange {
  let range = pitchRanges.get(pitch);
  if (range) return range;
  let [lowest, highest] = [127, 0];
  inBlocks(pitch.length, (from, to) => {
    for (let i = from; i < to; i++) {
      if (pitch[i] < lowest) lowest = pitch[i];
      if (pitch[i] > highest) highest = pitch[i];
    }
  });
  range = { lowest, highest };
  pitchRanges.set(pitch, range);
  return range;
}

/** Columns of sorted notes. */
export function toColumns(notes: readonly Note[]): NoteColumns {
  const columns = emptyColumns(notes.length);
  fill(columns, notes, 0, notes.length);
  return columns;
}

function fill(columns: NoteColumns, notes: readonly Note[], from: number, to: number): void {
  for (let i = from; i < to; i++) {
    const note = notes[i];
    columns.id[i] = note.id;
    columns.start[i] = note.start;
    columns.end[i] = note.start + note.length;
    columns.pitch[i] = note.pitch;
    columns.channel[i] = note.channel;
    columns.velocity[i] = note.velocity;
    columns.voice[i] = voiceOf(note.channel, note.pitch);
  }
}

/** Columns of sorted notes by those of a list that is nearly alike: what both lists hold is taken from there. */
export function columnsLike(notes: readonly Note[], columns: NoteColumns, { from, end, endHere }: Kin): NoteColumns {
  const all = emptyColumns(notes.length);
  for (const key of COLUMNS) {
    all[key].set(columns[key].subarray(0, from));
    all[key].set(columns[key].subarray(endHere), end);
  }
  fill(all, notes, from, end);
  return all;
}

/** Whether two sets of columns are the very same ones. */
export function sameColumns(a: NoteColumns, b: NoteColumns): boolean {
  return COLUMNS.every((key) => a[key] === b[key]);
}

/** The columns of some notes, by their indices. */
export function pickColumns(columns: NoteColumns, members: Int32Array): NoteColumns {
  const picked = emptyColumns(members.length);
  members.forEach((note, i) => {
    picked.id[i] = columns.id[note];
    picked.start[i] = columns.start[note];
    picked.end[i] = columns.end[note];
    picked.pitch[i] = columns.pitch[note];
    picked.channel[i] = columns.channel[note];
    picked.velocity[i] = columns.velocity[note];
    picked.voice[i] = columns.voice[note];
  });
  return picked;
}

/** Columns one behind the other. */
export function joinColumns(all: readonly NoteColumns[]): NoteColumns {
  const joined = emptyColumns(all.reduce((sum, c) => sum + c.count, 0));
  let at = 0;
  for (const columns of all) {
    for (const key of COLUMNS) {
      joined[key].set(columns[key], at);
    }
    at += columns.count;
  }
  return joined;
}
