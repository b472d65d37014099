import type { Lines, SongTime } from '@early-sparrow/core/grid';
import { chordOffsets, leansThroughout, ON_LINE_MS, summarize } from '@early-sparrow/core/insight';
import { median } from '@early-sparrow/core/maths';
import { sameTime, timeOf, type Part, type Song } from '@early-sparrow/core/song';
import { forEachMember, isSilent, treatmentLines, treatPart } from '@early-sparrow/core/treatment';

/** How a note lies against its line. */
export const LEAN = { early: 0, onLine: 1, late: 2 } as const;

/** One part ready for drawing: a column a property, a row a note in the order of the part. Ticks unless said. */
export interface Picture {
  readonly part: Part;
  readonly count: number;
  /** The notes' own starts, ascending: what is searched in. */
  readonly own: Float64Array;
  /** Where the notes were played: their take. */
  readonly played: Float64Array;
  readonly playedEnd: Float64Array;
  /** Where they lie now, after the treatment. */
  readonly corrected: Float64Array;
  readonly correctedEnd: Float64Array;
  readonly pitch: Uint8Array;
  readonly velocity: Uint8Array;
  /** 1 for a note that does not sound, as the softer of a double. */
  readonly silent: Uint8Array;
  /** Line of each note; notes outside every treatment have the nearest of the part's. */
  readonly line: Float64Array;
  /** Offsets from the line in ms, early negative: as played, and as corrected. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  readonly leanBefore: Uint8Array;
  readonly leanAfter: Uint8Array;
  /** The chords in order of their played places: what the offset lane shows. */
  readonly chords: readonly ChordMark[];
  /** Their played places, ascending. */
  readonly chordPlayed: Float64Array;
  /** Length of the longest note, to know where to begin looking for what is in view. */
  readonly longest: number;
  /** How far any note lies from its own start, as played or as corrected. */
  readonly margin: number;
  readonly lowest: number;
  readonly highest: number;
  /** Median of the offsets as played and as corrected, in ms. */
  readonly medianMs: number;
  readonly nowMs: number;
  /** The lean that the part's lag stage leaves throughout, in ms; 0 where it leaves none. */
  readonly leanMs: number;
  /** Offset that holds nineteen of twenty chords, before and after, in ms. */
  readonly wideMs: number;
  /** Length of a tick at the part's beginning, and half of the gap between lines there, in ms. */
  readonly msPerTick: number;
  readonly halfGapMs: number;
  /** The lines of the part's treatment. */
  readonly lines: Lines;
}

/** A chord in the offset lane: its median places in ticks, and their offsets from its line in ms. */
export interface ChordMark {
  /** Index of its first note, and of all of them. */
  readonly note: number;
  readonly notes: readonly number[];
  readonly played: number;
  readonly corrected: number;
  readonly before: number;
  readonly after: number;
  readonly leanBefore: number;
  readonly leanAfter: number;
}

const pictures = new WeakMap<Part, { time: SongTime; value: Picture }>();

/** The picture of a part; the same object as long as the part and the song's tempo and meter do not change. */
export function pictureOf(part: Part, song: Song): Picture {
  const time = timeOf(song);
  const known = pictures.get(part);
  if (known && sameTime(known.time, time)) return known.value;
  const value = build(part, song, time);
  pictures.set(part, { time, value });
  return value;
}

const leanOf = (ms: number) => (ms < -ON_LINE_MS ? LEAN.early : ms > ON_LINE_MS ? LEAN.late : LEAN.onLine);

function build(part: Part, song: Song, time: SongTime): Picture {
  const treated = treatPart(part, song);
  const { tempo } = time;
  const { columns, start, end } = treated;
  const { count } = columns;
  const lines = treatmentLines(part.treatment.quantize, time);
  const played = new Float64Array(count);
  const playedEnd = new Float64Array(count);
  const silent = new Uint8Array(count);
  const line = new Float64Array(count).fill(NaN);
  const groups: number[][] = [];
  part.notes.forEach((note, i) => {
    const take = note.take ?? note;
    played[i] = take.start;
    playedEnd[i] = take.start + take.length;
    silent[i] = isSilent(part, treated, i) ? 1 : 0;
  });
  for (const group of treated.groups) {
    let last = -1;
    forEachMember(group, (note, chord) => {
      line[note] = group.chords.line[chord];
      if (chord === last) groups[groups.length - 1].push(note);
      else groups.push([note]);
      last = chord;
    });
  }
  for (let i = 0; i < count; i++) {
    if (!Number.isNaN(line[i])) continue;
    line[i] = lines.nearest(Math.max(0, start[i]));
    groups.push([i]);
  }
  const before = new Float64Array(count);
  const after = new Float64Array(count);
  let longest = 0;
  let margin = 0;
  let lowest = 127;
  let highest = 0;
  for (let i = 0; i < count; i++) {
    before[i] = tempo.between(line[i], played[i]);
    after[i] = tempo.between(line[i], start[i]);
    longest = Math.max(longest, playedEnd[i] - played[i], end[i] - start[i]);
    margin = Math.max(margin, Math.abs(start[i] - columns.start[i]), Math.abs(played[i] - columns.start[i]));
    lowest = Math.min(lowest, columns.pitch[i]);
    highest = Math.max(highest, columns.pitch[i]);
  }
  const chords = groups
    .map((notes): ChordMark => {
      const [note] = notes;
      const single = notes.length === 1;
      const from = single ? played[note] : median(notes.map((i) => played[i]));
      const to = single ? start[note] : median(notes.map((i) => start[i]));
      const was = single ? before[note] : tempo.between(line[note], from);
      const is = single ? after[note] : tempo.between(line[note], to);
      return {
        note,
        notes,
        played: from,
        corrected: to,
        before: was,
        after: is,
        leanBefore: leanOf(was),
        leanAfter: leanOf(is),
      };
    })
    .sort((a, b) => a.played - b.played);
  const wasMs = Float64Array.from(chords, (c) => c.before);
  const isMs = Float64Array.from(chords, (c) => c.after);
  const own = treated.groups.find((g) => g.set === null);
  const steady = summarize(own ? chordOffsets(own.chords, tempo) : new Float64Array(0));
  return {
    part,
    count,
    own: columns.start,
    played,
    playedEnd,
    corrected: start,
    correctedEnd: end,
    pitch: columns.pitch,
    velocity: treated.velocity,
    silent,
    line,
    before,
    after,
    leanBefore: Uint8Array.from(before, leanOf),
    leanAfter: Uint8Array.from(after, leanOf),
    chords,
    chordPlayed: Float64Array.from(chords, (c) => c.played),
    longest,
    margin,
    lowest,
    highest,
    medianMs: chords.length > 0 ? median(wasMs) : 0,
    nowMs: chords.length > 0 ? median(isMs) : 0,
    leanMs: leansThroughout(steady) ? steady.median : 0,
    wideMs: Math.max(wide(wasMs), wide(isMs)),
    msPerTick: 60_000 / (tempo.bpmAt(part.start) * song.ppq),
    halfGapMs: tempo.between(part.start, part.start + lines.gapAt(part.start)) / 2,
    lines,
  };
}

function wide(offsets: Float64Array): number {
  const sizes = offsets.map(Math.abs).sort();
  return sizes.length > 0 ? sizes[Math.floor(sizes.length * 0.95)] : 0;
}

/** Index of the first that lies at or after a tick, by binary search in ascending places. */
export function firstAt(places: Float64Array, tick: number): number {
  let low = 0;
  let high = places.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (places[middle] < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The note under a place, the topmost last drawn first; −1 for none. */
export function noteAt(picture: Picture, corrected: boolean, tick: number, pitch: number, slack: number): number {
  const starts = corrected ? picture.corrected : picture.played;
  const ends = corrected ? picture.correctedEnd : picture.playedEnd;
  const { own, margin, longest } = picture;
  for (let i = firstAt(own, tick + slack + margin + 1) - 1; i >= 0; i--) {
    if (own[i] < tick - longest - slack - margin) break;
    if (picture.pitch[i] === pitch && starts[i] - slack <= tick && tick <= ends[i] + slack) return i;
  }
  return -1;
}
