import type { Lines } from '../grid';
import { median } from '../maths';
import { timeOf, type Part, type Song, type SongContext } from '../song';
import { VERDICT } from './assign';
import { marksOf } from './marks';
import { isSilent, partLines, treatPart, type TreatedGroup, type TreatedPart } from './treat';

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
  const lines = partLines(part, song);
  const played = columns.start.slice();
  const playedEnd = columns.end.slice();
  const silent = new Uint8Array(count);
  const marks = marksOf(part);
  if (marks.takes) {
    part.notes.forEach(({ take }, i) => {
      if (!take) return;
      played[i] = take.start;
      playedEnd[i] = take.start + take.length;
    });
  }
  if (marks.silent || treated.settled.dropped) {
    for (let i = 0; i < count; i++) if (isSilent(part, treated, i)) silent[i] = 1;
  }
  const chords = gatherChords(treated, played, lines, (from, to) => tempo.between(from, to));
  const line = new Float64Array(count);
  const chord = new Int32Array(count);
  const before = new Float64Array(count);
  const after = new Float64Array(count);
  for (let c = 0; c < chords.count; c++) {
    for (let k = chords.first[c]; k < chords.first[c + 1]; k++) {
      const i = chords.notes[k];
      chord[i] = c;
      line[i] = chords.line[c];
      before[i] = tempo.between(line[i], played[i]);
      after[i] = tempo.between(line[i], now[i]);
    }
  }
  return {
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
}

/** Chords as the treatments found them, and each other note as one; still in the order of the groups. */
interface Found {
  readonly count: number;
  readonly first: Int32Array;
  readonly notes: Int32Array;
  readonly line: Float64Array;
  readonly merged: Uint8Array;
  /** The player's time at each chord, and the place that it is told for: the lag is taken away there. */
  readonly drift: Float64Array;
  readonly place: Float64Array;
  readonly treated: Uint8Array;
}

function gatherChords(
  treated: TreatedPart,
  played: Float64Array,
  lines: Lines,
  msBetween: (from: number, to: number) => number,
): ChordFacts {
  const found = findChords(treated, lines);
  const { count } = found;
  const place = (of: Float64Array, c: number): number => {
    const [from, to] = [found.first[c], found.first[c + 1]];
    if (to - from === 1) return of[found.notes[from]];
    const places = new Float64Array(to - from);
    for (let k = from; k < to; k++) places[k - from] = of[found.notes[k]];
    return median(places);
  };
  const places = new Float64Array(count);
  const order = new Int32Array(count);
  let ordered = true;
  for (let c = 0; c < count; c++) {
    places[c] = place(played, c);
    order[c] = c;
    ordered &&= c === 0 || places[c - 1] <= places[c];
  }
  // Chords of one treatment are in order already; only own settings and takes that were kept mix them up.
  if (!ordered) order.sort((a, b) => places[a] - places[b]);
  const chords = {
    count,
    first: new Int32Array(count + 1),
    notes: new Int32Array(found.notes.length),
    played: new Float64Array(count),
    now: new Float64Array(count),
    line: new Float64Array(count),
    before: new Float64Array(count),
    after: new Float64Array(count),
    drift: new Float64Array(count),
    merged: new Uint8Array(count),
    treated: new Uint8Array(count),
  };
  let at = 0;
  for (let c = 0; c < count; c++) {
    const from = order[c];
    chords.first[c] = at;
    for (let k = found.first[from]; k < found.first[from + 1]; k++) chords.notes[at++] = found.notes[k];
    chords.played[c] = places[from];
    chords.now[c] = place(treated.start, from);
    chords.line[c] = found.line[from];
    chords.before[c] = msBetween(chords.line[c], chords.played[c]);
    chords.after[c] = msBetween(chords.line[c], chords.now[c]);
    chords.drift[c] = found.drift[from] + msBetween(found.place[from], chords.played[c]);
    chords.merged[c] = found.merged[from];
    chords.treated[c] = found.treated[from];
  }
  chords.first[count] = at;
  return chords;
}

function findChords({ groups, columns, start }: TreatedPart, lines: Lines): Found {
  // A chord has a note at least.
  const most = columns.count;
  const found = {
    first: new Int32Array(most + 1),
    notes: new Int32Array(most),
    line: new Float64Array(most),
    merged: new Uint8Array(most),
    drift: new Float64Array(most).fill(NaN),
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
      if (chords.drift) found.drift[count] = chords.drift[c];
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
  return { ...found, count };
}

/** Whether a chord shares the line of the one before it, and both are pulled to it. */
export function isMerged({ chords }: Pick<TreatedGroup, 'chords'>, c: number): boolean {
  const both = c > 0 && chords.verdict[c] === VERDICT.move && chords.verdict[c - 1] === VERDICT.move;
  return both && chords.line[c] === chords.line[c - 1];
}
