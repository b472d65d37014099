import type { SongTime } from '../grid';
import { meterOf, tempoOf, type Part, type Song, type SongTimes, type Treatment } from '../song';
import type { Assignment } from './assign';
import { emptyColumns, toColumns, type NoteColumns } from './columns';
import { settle, type Settled } from './settle';
import { Treater } from './treater';

/** Some notes of a part under one treatment. */
export interface TreatedGroup {
  /** Id of the exception's own settings; null for the part's treatment. */
  readonly set: string | null;
  readonly treatment: Treatment;
  /** Indices of the notes in the part; null for all of them. */
  readonly members: Int32Array | null;
  /** Their chords and lines, whether or not quantize is on. */
  readonly chords: Assignment;
}

/** A part's corrected notes, in the order of its own notes. */
export interface TreatedPart {
  readonly columns: NoteColumns;
  /** Whole ticks. */
  readonly start: Float64Array;
  /** Whole ticks. */
  readonly end: Float64Array;
  readonly velocity: Uint8Array;
  readonly settled: Settled;
  readonly groups: readonly TreatedGroup[];
}

/** Tempo and meter of a song, for the computation. */
export function timeOf(song: SongTimes): SongTime {
  return { tempo: tempoOf(song), meter: meterOf(song) };
}

const results = new WeakMap<Part, { time: SongTime; value: TreatedPart }>();
const columnsOfNotes = new WeakMap<Part['notes'], NoteColumns>();
const treaters = new WeakMap<Part['notes'], { time: SongTime; byGroup: Map<string, Treater> }>();

/**
 * The corrected notes of a part: a pure function of the part and the song's tempo and meter.
 * The same part gives the same object again.
 */
export function treatPart(part: Part, song: Song): TreatedPart {
  const time = timeOf(song);
  const known = results.get(part);
  if (known && sameTime(known.time, time)) return known.value;
  const value = compute(part, time);
  results.set(part, { time, value });
  return value;
}

/** Whether tempo and meter are the same objects. */
export function sameTime(a: SongTime, b: SongTime): boolean {
  return a.tempo === b.tempo && a.meter === b.meter;
}

/** A part's notes as columns; the same object as long as the notes do not change. */
export function partColumns(part: Part): NoteColumns {
  let columns = columnsOfNotes.get(part.notes);
  if (!columns) columnsOfNotes.set(part.notes, (columns = toColumns(part.notes)));
  return columns;
}

function compute(part: Part, time: SongTime): TreatedPart {
  const columns = partColumns(part);
  const result: { start: Float64Array; end: Float64Array; velocity: Uint8Array } = {
    start: columns.start.slice(),
    end: columns.end.slice(),
    velocity: columns.velocity.slice(),
  };
  const groups: TreatedGroup[] = [];
  for (const { set, treatment, members } of splitGroups(part)) {
    const treater = treaterFor(part, time, set, members);
    groups.push({ set, treatment, members, chords: treater.chords(treatment) });
    if (!part.on) continue;
    const staged = treater.stages(treatment);
    if (!members) {
      result.start = staged.start;
      result.end = staged.end;
      result.velocity = staged.velocity.slice();
    } else {
      members.forEach((note, i) => {
        result.start[note] = staged.start[i];
        result.end[note] = staged.end[i];
        result.velocity[note] = staged.velocity[i];
      });
    }
  }
  if (part.on) placePins(part, result);
  const settled = settle(columns, result, result.velocity, part.treatment.settle.dropDoubles, silentNotes(part));
  return { columns, ...result, settled, groups };
}

/** Notes that Keep left silent; null where there are none. */
function silentNotes(part: Part): Uint8Array | null {
  if (!part.notes.some(isDropped)) return null;
  return Uint8Array.from(part.notes, (n) => (isDropped(n) ? 1 : 0));
}

/** Whether a note does not sound, as the softer of a double: of one that came about now, or since Keep. */
export function isSilent(part: Part, treated: Pick<TreatedPart, 'settled'>, index: number): boolean {
  return treated.settled.dropped?.[index] === 1 || isDropped(part.notes[index]);
}

function isDropped(note: Part['notes'][number]): boolean {
  return note.exception?.kind === 'dropped';
}

function placePins(part: Part, result: { start: Float64Array; end: Float64Array; velocity: Uint8Array }): void {
  part.notes.forEach((note, i) => {
    if (note.exception?.kind !== 'pinned') return;
    result.start[i] = note.exception.start;
    result.end[i] = note.exception.start + note.exception.length;
    result.velocity[i] = note.exception.velocity;
  });
}

/** The notes under the part's treatment, and those of each set of own settings. */
function splitGroups(part: Part): { set: string | null; treatment: Treatment; members: Int32Array | null }[] {
  if (!part.notes.some((n) => n.exception)) {
    return [{ set: null, treatment: part.treatment, members: null }];
  }
  const of = (belongs: (e: Part['notes'][number]['exception']) => boolean) =>
    Int32Array.from(part.notes.flatMap((n, i) => (belongs(n.exception) ? [i] : [])));
  return [
    { set: null, treatment: part.treatment, members: of((e) => !e) },
    ...part.sets.map((own) => ({
      set: own.id,
      treatment: own.treatment,
      members: of((e) => e?.kind === 'own' && e.set === own.id),
    })),
  ].filter((g) => g.members.length > 0);
}

function treaterFor(part: Part, time: SongTime, set: string | null, members: Int32Array | null): Treater {
  let known = treaters.get(part.notes);
  if (!known || !sameTime(known.time, time)) {
    treaters.set(part.notes, (known = { time, byGroup: new Map() }));
  }
  const key = set ?? '';
  let treater = known.byGroup.get(key);
  if (!treater) {
    const columns = partColumns(part);
    treater = new Treater(members ? pick(columns, members) : columns, time);
    known.byGroup.set(key, treater);
  }
  return treater;
}

function pick(columns: NoteColumns, members: Int32Array): NoteColumns {
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
