import type { Lines } from '@early-sparrow/core/grid';
import { ON_LINE_MS } from '@early-sparrow/core/insight';
import { median, medianAbsoluteDeviation } from '@early-sparrow/core/maths';
import type { Part, Song } from '@early-sparrow/core/song';
import { forEachMember, timeOf, treatmentLines, treatPart } from '@early-sparrow/core/treatment';

/** How a note lies against its line. */
export const LEAN = { early: 0, onLine: 1, late: 2, none: 3 } as const;

/** One part ready for drawing: a column a property, a row a note in the order of the part. Ticks unless said. */
export interface Picture {
  readonly part: Part;
  readonly count: number;
  readonly played: Float64Array;
  readonly playedEnd: Float64Array;
  readonly corrected: Float64Array;
  readonly correctedEnd: Float64Array;
  readonly pitch: Uint8Array;
  readonly velocity: Uint8Array;
  /** Line of each note; NaN without one. */
  readonly line: Float64Array;
  /** Offsets from the line in ms, early negative; NaN without a line. */
  readonly before: Float64Array;
  readonly after: Float64Array;
  readonly lean: Uint8Array;
  /** The chords in order of their played places: what the offset lane shows. */
  readonly chords: readonly ChordMark[];
  /** Length of the longest note, to know where to begin looking for what is in view. */
  readonly longest: number;
  readonly lowest: number;
  readonly highest: number;
  /** Median of the offsets as played, in ms. */
  readonly medianMs: number;
  /** Median absolute deviation of the offsets from their median, in ms. */
  readonly spreadMs: number;
  /** Offset that holds nineteen of twenty chords, in ms. */
  readonly wideMs: number;
  /** Length of a tick at the part's beginning, and half of the gap between lines there, in ms. */
  readonly msPerTick: number;
  readonly halfGapMs: number;
  /** The lines of the part's treatment. */
  readonly lines: Lines;
}

/** A chord in the offset lane: its median places in ticks, and their offsets from its line in ms. */
export interface ChordMark {
  /** Index of its first note. */
  readonly note: number;
  readonly played: number;
  readonly corrected: number;
  readonly before: number;
  readonly after: number;
  readonly lean: number;
}

const pictures = new WeakMap<Part, Picture>();

/** The picture of a part; the same object as long as the part does not change. */
export function pictureOf(part: Part, song: Song): Picture {
  let picture = pictures.get(part);
  if (!picture) pictures.set(part, (picture = build(part, song)));
  return picture;
}

function build(part: Part, song: Song): Picture {
  const treated = treatPart(part, song);
  const time = timeOf(song);
  const { columns, start, end } = treated;
  const { count } = columns;
  const line = new Float64Array(count).fill(NaN);
  const before = new Float64Array(count).fill(NaN);
  const after = new Float64Array(count).fill(NaN);
  const lean = new Uint8Array(count).fill(LEAN.none);
  const marks: ChordMark[] = [];
  const leanOf = (ms: number) => (ms < -ON_LINE_MS ? LEAN.early : ms > ON_LINE_MS ? LEAN.late : LEAN.onLine);
  for (const group of treated.groups) {
    const chords = new Map<number, number[]>();
    forEachMember(group, (note, chord) => {
      line[note] = group.chords.line[chord];
      before[note] = time.tempo.between(line[note], columns.start[note]);
      after[note] = time.tempo.between(line[note], start[note]);
      lean[note] = leanOf(before[note]);
      const members = chords.get(chord);
      if (members) members.push(note);
      else chords.set(chord, [note]);
    });
    for (const [chord, members] of chords) {
      const played = median(members.map((i) => columns.start[i]));
      const corrected = median(members.map((i) => start[i]));
      const at = group.chords.line[chord];
      const ms = time.tempo.between(at, played);
      const left = time.tempo.between(at, corrected);
      marks.push({ note: members[0], played, corrected, before: ms, after: left, lean: leanOf(ms) });
    }
  }
  marks.sort((a, b) => a.played - b.played);
  const offsets = Float64Array.from(marks, (m) => m.before);
  const sizes = offsets.map(Math.abs).sort();
  const lines = treatmentLines(part.treatment.quantize, time);
  let longest = 0;
  let lowest = 127;
  let highest = 0;
  for (let i = 0; i < count; i++) {
    longest = Math.max(longest, columns.end[i] - columns.start[i], end[i] - start[i]);
    lowest = Math.min(lowest, columns.pitch[i]);
    highest = Math.max(highest, columns.pitch[i]);
  }
  return {
    part,
    count,
    played: columns.start,
    playedEnd: columns.end,
    corrected: start,
    correctedEnd: end,
    pitch: columns.pitch,
    velocity: treated.velocity,
    line,
    before,
    after,
    lean,
    chords: marks,
    longest,
    lowest,
    highest,
    medianMs: offsets.length > 0 ? median(offsets) : 0,
    spreadMs: offsets.length > 0 ? medianAbsoluteDeviation(offsets) : 0,
    wideMs: sizes.length > 0 ? sizes[Math.floor(sizes.length * 0.95)] : 0,
    msPerTick: 60_000 / (time.tempo.bpmAt(part.start) * song.ppq),
    halfGapMs: time.tempo.between(part.start, part.start + lines.gapAt(part.start)) / 2,
    lines,
  };
}

/** Index of the first note that starts at or after a tick, by binary search in the played starts. */
export function firstAt(starts: Float64Array, tick: number): number {
  let low = 0;
  let high = starts.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (starts[middle] < tick) low = middle + 1;
    else high = middle;
  }
  return low;
}

/** The note under a place, the topmost last drawn first; −1 for none. */
export function noteAt(picture: Picture, corrected: boolean, tick: number, pitch: number, slack: number): number {
  const starts = corrected ? picture.corrected : picture.played;
  const ends = corrected ? picture.correctedEnd : picture.playedEnd;
  // Corrections move notes by less than a bar, so a little margin finds them by their played starts.
  const margin = picture.longest + slack + MOVE_MARGIN;
  for (let i = firstAt(picture.played, tick + slack + MOVE_MARGIN) - 1; i >= 0; i--) {
    if (picture.played[i] < tick - margin) break;
    if (picture.pitch[i] === pitch && starts[i] - slack <= tick && tick <= ends[i] + slack) return i;
  }
  return -1;
}

/** No correction is expected to move a note further than this many ticks. */
export const MOVE_MARGIN = 4000;
