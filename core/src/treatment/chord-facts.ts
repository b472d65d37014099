import type { Lines } from '../grid';
import {
  allNaN,
  allOne,
  allZero,
  counting,
  isAscending,
  isCounting,
  median,
  medianOfFew,
  orderOf,
  picked,
  sameNumbers,
} from '../maths';
import type { TempoMap } from '../time';
import { VERDICT } from './assign';
import type { TreatedGroup, TreatedPart } from './treat';

/** A part's chords in order of their played places, as columns: a row a chord. Ticks unless said. */
export interface PlayedChords {
  readonly count: number;
  /** Where each chord's notes begin in `notes`; one more entry than chords. */
  readonly first: Int32Array;
  /** Indices of notes, chord by chord. */
  readonly notes: Int32Array;
  readonly line: Float64Array;
  /** Median starts as played. */
  readonly played: Float64Array;
  /** Offsets from the line as played, in ms, early negative. */
  readonly before: Float64Array;
  /** Where the player's time was, in ms from the line, where lines follow it; else NaN. */
  readonly drift: Float64Array;
  /** 1 for a chord that shares the line of the chord before it, to which both are pulled. */
  readonly merged: Uint8Array;
  /** 1 for a chord under a treatment; 0 for a note that left it. */
  readonly treated: Uint8Array;
}

/** The same with where they are now. */
export interface ChordFacts extends PlayedChords {
  /** Median starts now. */
  readonly now: Float64Array;
  /** Offsets from the line now, in ms, early negative. */
  readonly after: Float64Array;
}

/** The chords of a part, with what they were found by. */
export interface FoundChords {
  readonly chords: PlayedChords;
  readonly groups: readonly TreatedGroup[];
  /** Starts as played, a note each. */
  readonly played: Float64Array;
  readonly tempo: TempoMap;
  /** The chords of the groups alone. */
  readonly grouped: PlayedChords;
  /** Notes outside of every group, each a chord by itself, and its line. */
  readonly lone: Int32Array;
  readonly line: Float64Array;
}

/**
 * Finds the chords of a part.
 * @param like those that were found last: what they were found by in the same way is not found anew
 */
export function findChords(
  treated: TreatedPart,
  played: Float64Array,
  lines: Lines,
  tempo: TempoMap,
  like?: FoundChords,
): FoundChords {
  const { groups, start } = treated;
  const same = like?.played === played && like.tempo === tempo && sameGroups(like.groups, groups);
  const grouped = same ? like.grouped : chordsOfGroups(treated, played, tempo);
  const lone = same ? like.lone : outside(treated);
  const line = picked(start, lone);
  for (let k = 0; k < line.length; k++) line[k] = Math.max(0, line[k]);
  lines.nearestOf(line, line);
  if (same && sameNumbers(line, like.line)) return like;
  return { chords: withLone(grouped, lone, line, played, tempo), groups, played, tempo, grouped, lone, line };
}

function sameGroups(a: readonly TreatedGroup[], b: readonly TreatedGroup[]): boolean {
  return a.length === b.length && a.every((g, i) => g.chords === b[i].chords && g.members === b[i].members);
}

/** Chords as the treatments found them, still in the order of the groups. */
interface Unsorted extends Omit<PlayedChords, 'played' | 'before' | 'drift'> {
  /** The player's time at each chord, and the place that it is told for: the lag is taken away there; null for none. */
  readonly drift: Float64Array | null;
  readonly place: Float64Array;
}

function chordsOfGroups(treated: TreatedPart, played: Float64Array, tempo: TempoMap): PlayedChords {
  const [group, ...others] = treated.groups;
  const whole = group && others.length === 0 && !group.members;
  const unsorted = whole ? chordsOfAll(treated, group) : chordsOfSome(treated);
  const [{ drift, place, ...found }, places] = inOrder(unsorted, placesOf(unsorted, played));
  return {
    ...found,
    played: places,
    before: tempo.betweenEach(found.line, places),
    drift: drift ? added(drift, tempo.betweenEach(place, places)) : allNaN(found.count),
  };
}

function added(a: Float64Array, b: Float64Array): Float64Array {
  return a.map((value, i) => value + b[i]);
}

/** Whether each note is a chord, in the order of the part. */
export function isEachAlone({ count, notes }: Pick<PlayedChords, 'count' | 'notes'>): boolean {
  return notes.length === count && isCounting(notes);
}

/** Up to so many are put in order one by one. */
const FEW = 32;

/** Where each chord is: the median of its notes. */
export function placesOf(
  { count, first, notes }: Pick<PlayedChords, 'count' | 'first' | 'notes'>,
  of: Float64Array,
): Float64Array {
  if (count === of.length && isEachAlone({ count, notes })) return of;
  const places = new Float64Array(count);
  const several: number[] = [];
  for (let c = 0; c < count; c++) {
    const from = first[c];
    const to = first[c + 1];
    if (to - from === 1) {
      places[c] = of[notes[from]];
      continue;
    }
    several.length = 0;
    for (let k = from; k < to; k++) several.push(of[notes[k]]);
    places[c] = several.length > FEW ? median(several) : medianOfFew(several);
  }
  return places;
}

/** Chords in order of their played places, and those places. */
function inOrder(found: Unsorted, places: Float64Array): readonly [Unsorted, Float64Array] {
  // Chords of one treatment are in order already; only own settings and takes that were kept mix some up.
  const [from, to] = outOfOrder(places);
  if (from === to) return [found, places];
  const order = orderOf(places.subarray(from, to));
  const sorted = {
    count: found.count,
    first: found.first.slice(),
    notes: found.notes.slice(),
    line: found.line.slice(),
    merged: found.merged.slice(),
    drift: found.drift && found.drift.slice(),
    place: found.place.slice(),
    treated: found.treated.slice(),
  };
  const at = places.slice();
  let next = found.first[from];
  for (let c = from; c < to; c++) {
    const was = from + order[c - from];
    for (let k = found.first[was]; k < found.first[was + 1]; k++) sorted.notes[next++] = found.notes[k];
    sorted.first[c + 1] = next;
    sorted.line[c] = found.line[was];
    sorted.merged[c] = found.merged[was];
    if (sorted.drift && found.drift) sorted.drift[c] = found.drift[was];
    sorted.place[c] = found.place[was];
    sorted.treated[c] = found.treated[was];
    at[c] = places[was];
  }
  return [sorted, at];
}

/** The stretch outside of which numbers ascend, each below what is in it or above: from one index up to another. */
function outOfOrder(numbers: Float64Array): readonly [number, number] {
  let to = 0;
  for (let i = 0, most = -Infinity; i < numbers.length; i++) {
    if (numbers[i] < most) to = i + 1;
    else most = numbers[i];
  }
  let from = to;
  for (let i = to - 1, least = Infinity; i >= 0; i--) {
    if (numbers[i] > least) from = i;
    else least = numbers[i];
  }
  return [from, to];
}

/** Where all notes are under one treatment its chords are the part's. */
function chordsOfAll({ columns }: TreatedPart, group: TreatedGroup): Unsorted {
  const { chords } = group;
  return {
    count: chords.count,
    first: chords.first,
    notes: counting(columns.count),
    line: chords.line,
    merged: mergedOf(group),
    drift: chords.drift ?? null,
    place: chords.place,
    treated: allOne(chords.count),
  };
}

function mergedOf(group: TreatedGroup): Uint8Array {
  const merged = new Uint8Array(group.chords.count);
  for (let c = 1; c < merged.length; c++) if (isMerged(group, c)) merged[c] = 1;
  return merged;
}

function chordsOfSome({ groups }: TreatedPart): Unsorted {
  const count = groups.reduce((sum, { chords }) => sum + chords.count, 0);
  const notes = new Int32Array(groups.reduce((sum, { members }) => sum + (members?.length ?? 0), 0));
  const found = {
    count,
    first: new Int32Array(count + 1),
    notes,
    line: new Float64Array(count),
    merged: new Uint8Array(count),
    drift: groups.some((g) => g.chords.drift) ? new Float64Array(count).fill(NaN) : null,
    place: new Float64Array(count),
    treated: allOne(count),
  };
  let at = 0;
  let note = 0;
  for (const group of groups) {
    const { chords, members } = group;
    found.line.set(chords.line, at);
    found.merged.set(mergedOf(group), at);
    found.place.set(chords.place, at);
    if (chords.drift) found.drift?.set(chords.drift, at);
    if (members) notes.set(members, note);
    for (let c = 0; c < chords.count; c++) found.first[at + c] = note + chords.first[c];
    at += chords.count;
    note += members?.length ?? 0;
  }
  found.first[count] = note;
  return found;
}

/** The notes that are in no group, by index. */
function outside({ groups, columns }: TreatedPart): Int32Array {
  if (groups.length === 0) return counting(columns.count);
  if (groups.some((g) => !g.members)) return new Int32Array(0);
  const seen = new Uint8Array(columns.count);
  let left = columns.count;
  for (const { members } of groups) {
    if (!members) continue;
    for (let i = 0; i < members.length; i++) seen[members[i]] = 1;
    left -= members.length;
  }
  const lone = new Int32Array(left);
  for (let i = 0, at = 0; i < seen.length && at < left; i++) if (seen[i] === 0) lone[at++] = i;
  return lone;
}

/** Chords with lone notes among them, each where it was played. */
function withLone(
  chords: PlayedChords,
  lone: Int32Array,
  lines: Float64Array,
  starts: Float64Array,
  tempo: TempoMap,
): PlayedChords {
  if (lone.length === 0) return chords;
  const places = picked(starts, lone);
  const offsets = tempo.betweenEach(lines, places);
  const count = chords.count + lone.length;
  if (chords.count === 0 && isAscending(places)) return loneAlone(lone, lines, places, offsets);
  const order = orderOf(places);
  const first = new Int32Array(count + 1);
  const notes = new Int32Array(chords.notes.length + lone.length);
  const line = new Float64Array(count);
  const played = new Float64Array(count);
  const before = new Float64Array(count);
  const drift = new Float64Array(count);
  const merged = new Uint8Array(count);
  const treated = new Uint8Array(count);
  let from = 0;
  let note = 0;
  let k = 0;
  // One by one: lone notes are often scattered among the chords, and a copy of each stretch between them takes longer.
  for (let at = 0; at < count; at++) {
    first[at] = note;
    const which = k < lone.length ? order[k] : -1;
    if (from < chords.count && (which < 0 || chords.played[from] <= places[which])) {
      for (let n = chords.first[from]; n < chords.first[from + 1]; n++) notes[note++] = chords.notes[n];
      line[at] = chords.line[from];
      played[at] = chords.played[from];
      before[at] = chords.before[from];
      drift[at] = chords.drift[from];
      merged[at] = chords.merged[from];
      treated[at] = chords.treated[from];
      from++;
    } else {
      notes[note++] = lone[which];
      line[at] = lines[which];
      played[at] = places[which];
      before[at] = offsets[which];
      drift[at] = NaN;
      k++;
    }
  }
  first[count] = note;
  return { count, first, notes, line, played, before, drift, merged, treated };
}

/** Where no note is under a treatment each is a chord. */
function loneAlone(notes: Int32Array, line: Float64Array, played: Float64Array, before: Float64Array): PlayedChords {
  const count = notes.length;
  const [first, none] = [counting(count + 1), allZero(count)];
  return { count, first, notes, line, played, before, drift: allNaN(count), merged: none, treated: none };
}

/** Whether a chord shares the line of the one before it, and both are pulled to it. */
export function isMerged({ chords }: Pick<TreatedGroup, 'chords'>, c: number): boolean {
  const both = c > 0 && chords.verdict[c] === VERDICT.move && chords.verdict[c - 1] === VERDICT.move;
  return both && chords.line[c] === chords.line[c - 1];
}
