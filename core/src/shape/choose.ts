import { ON_LINE_MS } from '../insight';
import { meterOf, type Part, type Song } from '../song';
import { factsOf, type Facts } from '../treatment';
import type { MeterMap, Ticks } from '../time';
import type { Side } from './taken';

/** What a condition looks at: a note of a part, on the side that is shown. */
export interface Seen {
  readonly facts: Facts;
  readonly part: Part;
  readonly meter: MeterMap;
  readonly side: Side;
  readonly index: number;
  readonly ppq: number;
}

/** A condition on notes with two numbers; which of them count depends on it. */
interface Condition {
  /** As in `notes with …`. */
  readonly words: string;
  readonly unit: string;
  /** Least and greatest value that a note may have. */
  readonly range: readonly [number, number];
  readonly value: (seen: Seen) => number;
}

export const startOf = ({ facts, side, index }: Seen): Ticks => (side === 'played' ? facts.played : facts.now)[index];
export const endOf = ({ facts, side, index }: Seen): Ticks =>
  (side === 'played' ? facts.playedEnd : facts.nowEnd)[index];
export const offsetOf = ({ facts, side, index }: Seen): number =>
  (side === 'played' ? facts.before : facts.after)[index];

/** Place in the bar in beats from 1, of the line that a note is meant for. */
export function beatOf({ facts, meter, index }: Seen): number {
  const line = Math.round(facts.line[index]);
  return 1 + (line - meter.barStartAt(line)) / meter.pieceAt(line).beatTicks;
}

/** Half a hundredth of a beat: what is written as beat 2 is beat 2. */
export const SAME_BEAT = 0.005;

/** What notes can be selected by. */
export const CONDITIONS = {
  pitch: { words: 'a key from', unit: '', range: [0, 127], value: ({ part, index }) => part.notes[index].pitch },
  velocity: {
    words: 'a velocity from',
    unit: '',
    range: [1, 127],
    value: ({ facts, part, side, index }) => (side === 'played' ? part.notes[index].velocity : facts.velocity[index]),
  },
  length: {
    words: 'a length from',
    unit: 'quarters',
    range: [0, 1000],
    value: (seen) => (endOf(seen) - startOf(seen)) / seen.ppq,
  },
  beat: { words: 'a place in the bar from beat', unit: '', range: [1, 64], value: beatOf },
  early: { words: 'an early start, by', unit: 'ms', range: [0, 1000], value: (seen) => -offsetOf(seen) },
  late: { words: 'a late start, by', unit: 'ms', range: [0, 1000], value: offsetOf },
  off: { words: 'a start off its line, by', unit: 'ms', range: [0, 1000], value: (seen) => Math.abs(offsetOf(seen)) },
} as const satisfies Record<string, Condition>;
export type ConditionName = keyof typeof CONDITIONS;

/** Ids of a part's notes for which a condition's value lies within two numbers, both included. */
export function notesWith(
  song: Song,
  part: Part,
  side: Side,
  condition: ConditionName,
  least: number,
  most: number,
): number[] {
  return notesWhere(song, part, side, (seen) => {
    const value = CONDITIONS[condition].value(seen);
    const room = condition === 'beat' ? SAME_BEAT : 0;
    return value >= least - room && value <= most + room;
  });
}

/** Notes on or off the beats of their bars, by the lines that they are meant for. */
export function notesByBeat(song: Song, part: Part, on: boolean): number[] {
  return notesWhere(song, part, 'played', (seen) => {
    const beat = beatOf(seen);
    return Math.abs(beat - Math.round(beat)) < SAME_BEAT === on;
  });
}

/** Notes that lie on their lines, within what counts as on the line. */
export function notesOnLine(song: Song, part: Part, side: Side): number[] {
  return notesWhere(song, part, side, (seen) => Math.abs(offsetOf(seen)) <= ON_LINE_MS);
}

/** Notes that begin in a stretch, from its first tick up to its last. */
export function notesWithin(song: Song, part: Part, side: Side, from: Ticks, to: Ticks): number[] {
  return notesWhere(song, part, side, (seen) => startOf(seen) >= from && startOf(seen) < to);
}

/** Notes of the pitches that some notes have. */
export function notesLike(song: Song, part: Part, ids: readonly number[], by: 'pitch' | 'beat'): number[] {
  const wanted = new Set(ids);
  const key = (seen: Seen) => (by === 'pitch' ? part.notes[seen.index].pitch : Math.round(beatOf(seen) * 100));
  const keys = new Set<number>();
  notesWhere(song, part, 'played', (seen) => {
    if (wanted.has(part.notes[seen.index].id)) keys.add(key(seen));
    return false;
  });
  return notesWhere(song, part, 'played', (seen) => keys.has(key(seen)));
}

/** Ids of the notes of a part that pass a test, in the order of the part. */
export function notesWhere(song: Song, part: Part, side: Side, test: (seen: Seen) => boolean): number[] {
  const facts = factsOf(part, song);
  const meter = meterOf(song);
  return part.notes.filter((_, index) => test({ facts, part, meter, side, index, ppq: song.ppq })).map((n) => n.id);
}
