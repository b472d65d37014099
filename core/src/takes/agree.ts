import { median } from '../maths';
import type { Ms, Ticks } from '../time';
import type { TakeNotes } from './take-notes';

/** What a note of a take is, by what the other takes play there. */
export type Heard = 'meant' | 'wrong' | 'extra' | 'open';

/** How the notes of all takes agree. */
export interface Agreement {
  /** A take each, a note each: what it is. */
  readonly heard: readonly (readonly Heard[])[];
  /** The line that each is meant for: one that strayed to a neighbour's line is told by the others. */
  readonly line: readonly Float64Array[];
  /** Offsets from that line in ms, without the take's lag. */
  readonly off: readonly Float64Array[];
  /** How far each note's velocity is from the usual one of its place; NaN where nobody else plays it. */
  readonly uneven: readonly Float64Array[];
  /** Lines at which each take lacks a note that most others have. */
  readonly missed: readonly (readonly Ticks[])[];
}

/** How ticks and ms are told from each other, and how wide a line's neighbourhood is. */
export interface Places {
  /** From one tick to another, in ms. */
  readonly between: (from: Ticks, to: Ticks) => Ms;
  /** The gap between lines at a tick, in ticks. */
  readonly gapAt: (tick: Ticks) => Ticks;
}

/** A slip of the hand is no further from the right key than this, in semitones. */
const SLIP = 12;

/**
 * Compares what takes play, note by note: what most of the takes that reach a place have there is meant. Where half of them
 * have it, as with two takes, nobody knows: nothing is called wrong.
 * @param covers whether a take was played at a line
 */
export function agree(
  takes: readonly TakeNotes[],
  places: Places,
  covers: (take: number, line: Ticks) => boolean,
): Agreement {
  const spots = new Map<string, Spot>();
  const keys = takes.map((take, k) => keysOf(take, (key, line, pitch) => spotAt(spots, key, line, pitch).takes.add(k)));
  for (const spot of spots.values()) {
    const present = takes.filter((_, k) => covers(k, spot.line)).length;
    spot.share = spot.takes.size / Math.max(1, present);
  }
  const meant = [...spots.values()].filter((s) => s.share > 0.5);
  const sorted = takes.map((take, k) => sortOut(take, k, keys[k], { spots, meant, places, covers }));
  return { ...columns(sorted), uneven: unevenness(takes, sorted) };
}

/** A place where notes of one pitch are played. */
interface Spot {
  readonly line: Ticks;
  readonly pitch: number;
  readonly takes: Set<number>;
  /** Of the takes that reach it, how many have it. */
  share: number;
}

interface Sorted {
  readonly heard: Heard[];
  readonly line: Float64Array;
  readonly off: Float64Array;
  readonly missed: Ticks[];
  /** The place that each note was meant for; null for none. */
  readonly spot: (Spot | null)[];
}

function keysOf(take: TakeNotes, found: (key: string, line: Ticks, pitch: number) => void): string[] {
  const times = new Map<string, number>();
  return take.content.notes.map(({ pitch }, i) => {
    const line = take.line[i];
    const plain = `${Math.round(line)}.${pitch}`;
    // Two of one pitch on one line are a first and a second: a double that one take has is its own.
    const nth = times.get(plain) ?? 0;
    times.set(plain, nth + 1);
    const key = `${plain}.${nth}`;
    found(key, line, pitch);
    return key;
  });
}

function spotAt(spots: Map<string, Spot>, key: string, line: Ticks, pitch: number): Spot {
  let spot = spots.get(key);
  if (!spot) spots.set(key, (spot = { line, pitch, takes: new Set(), share: 0 }));
  return spot;
}

interface Common {
  readonly spots: ReadonlyMap<string, Spot>;
  readonly meant: readonly Spot[];
  readonly places: Places;
  readonly covers: (take: number, line: Ticks) => boolean;
}

/** What each note of a take is: its own place if that is meant, else a near one that it lacks, else a slip beside one. */
function sortOut(
  take: TakeNotes,
  k: number,
  keys: readonly string[],
  { spots, meant, places, covers }: Common,
): Sorted {
  const { notes } = take.content;
  const own = keys.map((key) => spots.get(key)!);
  const heard = own.map(({ share }): Heard => (share > 0.5 ? 'meant' : share === 0.5 ? 'open' : 'extra'));
  const spot = own.map((s): Spot | null => (s.share >= 0.5 ? s : null));
  const line = take.line.slice();
  const off = take.off.slice();
  const lacks = meant.filter((s) => !s.takes.has(k) && covers(k, s.line));
  const strays = new Set(heard.flatMap((h, i) => (h === 'extra' ? [i] : [])));
  const claim = (as: Heard, fits: (note: number, s: Spot) => boolean): Spot[] =>
    lacks.filter((s) => {
      const near = [...strays].filter((i) => fits(i, s) && Math.abs(own[i].line - s.line) <= places.gapAt(s.line) + 1);
      if (near.length === 0) return true;
      const away = (i: number) => Math.abs(off[i] + places.between(s.line, own[i].line));
      const i = near.reduce((a, b) => (away(b) < away(a) ? b : a));
      strays.delete(i);
      heard[i] = as;
      spot[i] = s;
      off[i] += places.between(s.line, own[i].line);
      line[i] = s.line;
      return false;
    });
  const left = new Set(claim('meant', (i, s) => notes[i].pitch === s.pitch));
  lacks.splice(0, lacks.length, ...lacks.filter((s) => left.has(s)));
  const missed = claim('wrong', (i, s) => Math.abs(notes[i].pitch - s.pitch) <= SLIP).map((s) => s.line);
  return { heard, line, off, missed, spot };
}

function columns(sorted: readonly Sorted[]): Omit<Agreement, 'uneven'> {
  return {
    heard: sorted.map((s) => s.heard),
    line: sorted.map((s) => s.line),
    off: sorted.map((s) => s.off),
    missed: sorted.map((s) => s.missed),
  };
}

/** How far each velocity is from the median of its place over the takes. */
function unevenness(takes: readonly TakeNotes[], sorted: readonly Sorted[]): Float64Array[] {
  const velocities = new Map<Spot, number[]>();
  sorted.forEach(({ spot, heard }, k) =>
    spot.forEach((s, i) => {
      if (!s || heard[i] === 'wrong') return;
      const list = velocities.get(s) ?? [];
      if (list.length === 0) velocities.set(s, list);
      list.push(takes[k].content.notes[i].velocity);
    }),
  );
  const usual = new Map([...velocities].filter(([, v]) => v.length > 1).map(([s, v]) => [s, median(v)]));
  return sorted.map(({ spot }, k) =>
    Float64Array.from(spot, (s, i) => takes[k].content.notes[i].velocity - ((s && usual.get(s)) ?? NaN)),
  );
}
