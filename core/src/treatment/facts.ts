import type { Lines, SongTime } from '../grid';
import { allNaN, allOne, allZero, counting, median, orderOf, sameNumbers } from '../maths';
import type { TempoMap } from '../time';
import { kinOf, sameTime, timeOf, type Part, type Song, type SongContext } from '../song';
import { VERDICT } from './assign';
import { tableOf } from './note-table';
import { hasSilent, isSilent, partLines, treatPart, type TreatedGroup, type TreatedPart } from './treat';

/** A part's chords in order of their played places, as columns: a row a chord. Ticks unless said. */
export interface ChordFacts {
  readonly count: number;
  /** Where each chord's notes begin in `notes`; one more entry than chords. */
  readonly first: Int32Array;
  /** Indices of notes, chord by chord. */
  readonly notes: Int32Array;
  /** Median starts, as played and now. */
  readonly played: Float64Array;
  readonly now: Float64Array;
  readonly line: Float64Array;
  /** Offsets from the line in ms, early negative: as played, and now. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  /** Where the player's time was, in ms from the line, where lines follow it; else NaN. */
  readonly drift: Float64Array;
  /** 1 for a chord that shares the line of the chord before it, to which both are pulled. */
  readonly merged: Uint8Array;
  /** 1 for a chord under a treatment; 0 for a note that left it. */
  readonly treated: Uint8Array;
}

/**
 * What is known about each note of a part: one table, from which the picture, the lanes, reports, messages and
 * selections are read. A column a property, a row a note in the order of the part. Ticks unless said.
 */
export interface Facts {
  readonly treated: TreatedPart;
  readonly count: number;
  /** Where the notes were played: their take. */
  readonly played: Float64Array;
  readonly playedEnd: Float64Array;
  /** Where they lie now, after the treatment. */
  readonly now: Float64Array;
  readonly nowEnd: Float64Array;
  readonly velocity: Uint8Array;
  /** 1 for a note that does not sound, as the softer of a double. */
  readonly silent: Uint8Array;
  /** Line of each note; notes outside every treatment have the nearest of the part's. */
  readonly line: Float64Array;
  /** Offsets from the line in ms, early negative: as played, and now. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  /** Index of each note's chord. */
  readonly chord: Int32Array;
  readonly chords: ChordFacts;
  /** The lines of the part's own treatment. */
  readonly lines: Lines;
}

const known = new WeakMap<TreatedPart, Facts>();

/** The facts about a part's notes; the same object as long as the part, its track and the song's time do not change. */
export function factsOf(part: Part, song: Song): Facts {
  const treated = treatPart(part, song);
  let facts = known.get(treated);
  if (!facts) known.set(treated, (facts = gather(treated, song)));
  return facts;
}

function gather(treated: TreatedPart, song: SongContext): Facts {
  const { part, columns, start: now, end: nowEnd, velocity } = treated;
  const { count } = columns;
  const time = timeOf(song);
  const { tempo } = time;
  const { played, playedEnd } = tableOf(part.notes);
  const silences = hasSilent(part) || treated.settled.dropped !== null;
  const silent = silences ? new Uint8Array(count) : allZero(count);
  if (silences) for (let i = 0; i < count; i++) if (isSilent(part, treated, i)) silent[i] = 1;
  const last = lastFacts(part.notes);
  const like = last && placesAlike(last, treated, played, time) ? last.facts : null;
  const lines = like?.lines ?? partLines(part, song);
  const chords = like?.chords ?? gatherChords(treated, played, lines, tempo);
  const { line, chord, before, after } = like ?? noteFacts(chords, played, now, tempo);
  const facts = {
    treated,
    count,
    played,
    playedEnd,
    now,
    nowEnd,
    velocity,
    silent,
    line,
    before,
    after,
    chord,
    chords,
    lines,
  };
  latest.set(part.notes, { facts, time });
  return facts;
}

/** Facts with the time that they were gathered under. */
interface Gathered {
  readonly facts: Facts;
  readonly time: SongTime;
}

const latest = new WeakMap<Part['notes'], Gathered>();

/** The facts that were gathered last of some notes, or of those before they were changed. */
function lastFacts(notes: Part['notes']): Gathered | undefined {
  const list = latest.has(notes) ? notes : kinOf(notes).find((kin) => latest.has(kin));
  return list && latest.get(list);
}

/**
 * Whether all notes have the chords and places of some facts before, under one treatment: all that has to do with places
 * is the same then. So it is while velocities are changed.
 */
function placesAlike({ facts, time }: Gathered, treated: TreatedPart, played: Float64Array, now: SongTime): boolean {
  const [group, ...others] = treated.groups;
  const [before, ...othersBefore] = facts.treated.groups;
  if (!group || !before || others.length > 0 || othersBefore.length > 0 || group.members || before.members)
    return false;
  const same = group.chords === before.chords && sameTime(time, now);
  return same && sameNumbers(played, facts.played) && sameNumbers(treated.start, facts.now);
}

/** What is known about each note by its chord. */
function noteFacts(
  chords: ChordFacts,
  played: Float64Array,
  now: Float64Array,
  tempo: TempoMap,
): Pick<Facts, 'line' | 'chord' | 'before' | 'after'> {
  const count = chords.notes.length;
  // Where each note is a chord, one table is the other.
  if (isEachAlone(chords)) return { ...chords, chord: chords.notes };
  const line = new Float64Array(count);
  const chord = new Int32Array(count);
  for (let c = 0; c < chords.count; c++) {
    for (let k = chords.first[c]; k < chords.first[c + 1]; k++) {
      const i = chords.notes[k];
      chord[i] = c;
      line[i] = chords.line[c];
    }
  }
  return { line, chord, before: tempo.betweenEach(line, played), after: tempo.betweenEach(line, now) };
}

/** Chords as the treatments found them, and each other note as one; still in the order of the groups. */
interface Found {
  readonly count: number;
  readonly first: Int32Array;
  readonly notes: Int32Array;
  readonly line: Float64Array;
  readonly merged: Uint8Array;
  /** The player's time at each chord, and the place that it is told for: the lag is taken away there; null for none. */
  readonly drift: Float64Array | null;
  readonly place: Float64Array;
  readonly treated: Uint8Array;
}

function gatherChords(treated: TreatedPart, played: Float64Array, lines: Lines, tempo: TempoMap): ChordFacts {
  const { drift, place, ...found } = inOrder(findChords(treated, lines), played);
  const { count, line } = found;
  const places = placesOf(found, played);
  const now = placesOf(found, treated.start);
  return {
    ...found,
    played: places,
    now,
    before: tempo.betweenEach(line, places),
    after: tempo.betweenEach(line, now),
    drift: drift ? added(drift, tempo.betweenEach(place, places)) : allNaN(count),
  };
}

function added(a: Float64Array, b: Float64Array): Float64Array {
  return a.map((value, i) => value + b[i]);
}

/** Whether each note is a chord, in the order of the part. */
function isEachAlone({ count, notes }: Pick<Found, 'count' | 'notes'>): boolean {
  if (notes.length !== count) return false;
  // A loop: a function for each takes as long as the rest of the facts.
  for (let i = 0; i < count; i++) if (notes[i] !== i) return false;
  return true;
}

/** Where each chord is: the median of its notes. */
function placesOf({ count, first, notes }: Pick<Found, 'count' | 'first' | 'notes'>, of: Float64Array): Float64Array {
  if (isEachAlone({ count, notes })) return of;
  const places = new Float64Array(count);
  for (let c = 0; c < count; c++) {
    const [from, to] = [first[c], first[c + 1]];
    places[c] = to - from === 1 ? of[notes[from]] : median(Float64Array.from(notes.subarray(from, to), (i) => of[i]));
  }
  return places;
}

/** Chords in order of their played places. */
function inOrder(found: Found, played: Float64Array): Found {
  const { count } = found;
  const places = placesOf(found, played);
  let ordered = true;
  for (let c = 1; c < count && ordered; c++) ordered = places[c - 1] <= places[c];
  // Chords of one treatment are in order already; only own settings and takes that were kept mix them up.
  if (ordered) return found;
  const order = orderOf(places);
  const sorted = {
    count,
    first: new Int32Array(count + 1),
    notes: new Int32Array(found.notes.length),
    line: new Float64Array(count),
    merged: new Uint8Array(count),
    drift: found.drift && new Float64Array(count),
    place: new Float64Array(count),
    treated: new Uint8Array(count),
  };
  let at = 0;
  for (let c = 0; c < count; c++) {
    const from = order[c];
    for (let k = found.first[from]; k < found.first[from + 1]; k++) sorted.notes[at++] = found.notes[k];
    sorted.first[c + 1] = at;
    sorted.line[c] = found.line[from];
    sorted.merged[c] = found.merged[from];
    if (sorted.drift && found.drift) sorted.drift[c] = found.drift[from];
    sorted.place[c] = found.place[from];
    sorted.treated[c] = found.treated[from];
  }
  return sorted;
}

function findChords(treated: TreatedPart, lines: Lines): Found {
  const [group, ...others] = treated.groups;
  const whole = group && others.length === 0 && !group.members;
  return whole ? chordsOfAll(treated, group) : chordsOfSome(treated, lines);
}

/** Where all notes are under one treatment its chords are the part's. */
function chordsOfAll({ columns }: TreatedPart, group: TreatedGroup): Found {
  const { chords } = group;
  const merged = new Uint8Array(chords.count);
  for (let c = 1; c < chords.count; c++) if (isMerged(group, c)) merged[c] = 1;
  return {
    count: chords.count,
    first: chords.first,
    notes: counting(columns.count),
    line: chords.line,
    merged,
    drift: chords.drift ?? null,
    place: chords.place,
    treated: allOne(chords.count),
  };
}

function chordsOfSome({ groups, columns, start }: TreatedPart, lines: Lines): Found {
  // A chord has a note at least.
  const most = columns.count;
  const found = {
    first: new Int32Array(most + 1),
    notes: new Int32Array(most),
    line: new Float64Array(most),
    merged: new Uint8Array(most),
    drift: groups.some((g) => g.chords.drift) ? new Float64Array(most).fill(NaN) : null,
    place: new Float64Array(most).fill(NaN),
    treated: new Uint8Array(most),
  };
  const seen = new Uint8Array(most);
  let at = 0;
  let count = 0;
  for (const group of groups) {
    const { chords, members } = group;
    for (let c = 0; c < chords.count; c++) {
      found.first[count] = at;
      found.line[count] = chords.line[c];
      found.merged[count] = isMerged(group, c) ? 1 : 0;
      found.treated[count] = 1;
      if (chords.drift && found.drift) found.drift[count] = chords.drift[c];
      found.place[count++] = chords.place[c];
      for (let i = chords.first[c]; i < chords.first[c + 1]; i++) {
        const note = members ? members[i] : i;
        found.notes[at++] = note;
        seen[note] = 1;
      }
    }
  }
  for (let i = 0; i < most; i++) {
    if (seen[i]) continue;
    found.first[count] = at;
    found.line[count++] = lines.nearest(Math.max(0, start[i]));
    found.notes[at++] = i;
  }
  found.first[count] = at;
  const cut = <T extends { subarray(from: number, to: number): T }>(column: T, to = count) => column.subarray(0, to);
  return {
    count,
    first: cut(found.first, count + 1),
    notes: cut(found.notes, at),
    line: cut(found.line),
    merged: cut(found.merged),
    drift: found.drift && cut(found.drift),
    place: cut(found.place),
    treated: cut(found.treated),
  };
}

/** Whether a chord shares the line of the one before it, and both are pulled to it. */
export function isMerged({ chords }: Pick<TreatedGroup, 'chords'>, c: number): boolean {
  const both = c > 0 && chords.verdict[c] === VERDICT.move && chords.verdict[c - 1] === VERDICT.move;
  return both && chords.line[c] === chords.line[c - 1];
}
