import { leansThroughout, ON_LINE_MS, summarizePieces } from '@early-sparrow/core/insight';
import { allZero, firstAt, inBlocks, median, quantile, type Pieces } from '@early-sparrow/core/maths';
import { tempoOf, type Part, type Song } from '@early-sparrow/core/song';
import { exceptionsOf, factsOf, marksOf, pitchRange, type Facts } from '@early-sparrow/core/treatment';

/** How a note lies against its line. */
export const LEAN = { early: 0, onLine: 1, late: 2 } as const;

/** The facts about a part, ready for drawing: what they look like, and what there is to know to find what is in view. */
export interface Picture extends Facts {
  readonly part: Part;
  /** The notes' own starts, ascending: what is searched in. Ticks. */
  readonly own: Float64Array;
  readonly pitch: Uint8Array;
  /** 1 for a note that a person muted. */
  readonly muted: Uint8Array;
  /** Length of the longest note, to know where to begin looking for what is in view. Ticks. */
  readonly longest: number;
  /** How far any note lies from its own start, as played or now. Ticks. */
  readonly margin: number;
  readonly lowest: number;
  readonly highest: number;
  /** Median of the offsets as played and now, in ms. */
  readonly medianMs: number;
  readonly nowMs: number;
  /** Offset that holds nineteen of twenty chords, before and after, in ms. */
  readonly wideMs: number;
  /** Length of a tick at the part's beginning, and half of the gap between lines there, in ms. */
  readonly msPerTick: number;
  readonly halfGapMs: number;
}

const pictures = new WeakMap<Facts, Picture>();

/** The picture of a part; the same object as long as the facts about it are the same. */
export function pictureOf(part: Part, song: Song): Picture {
  const facts = factsOf(part, song);
  let picture = pictures.get(facts);
  if (!picture) pictures.set(facts, (picture = build(facts, song)));
  return picture;
}

/** How a note lies that is so many ms from its line. */
export function leanOf(ms: number): number {
  return ms < -ON_LINE_MS ? LEAN.early : ms > ON_LINE_MS ? LEAN.late : LEAN.onLine;
}

/** What of a picture comes from the places of its chords alone. */
type Leaning = Pick<Picture, 'medianMs' | 'nowMs' | 'wideMs'>;
const leanings = new WeakMap<Facts['chords'], Leaning>();

function leaningOf({ chords }: Facts): Leaning {
  let leaning = leanings.get(chords);
  if (!leaning) {
    const { count, before, after } = chords;
    leaning = {
      medianMs: count > 0 ? median(before) : 0,
      nowMs: count > 0 ? median(after) : 0,
      wideMs: Math.max(wide(before), wide(after)),
    };
    leanings.set(chords, leaning);
  }
  return leaning;
}

function build(facts: Facts, song: Song): Picture {
  const { treated, lines } = facts;
  const { part, columns } = treated;
  const tempo = tempoOf(song);
  return {
    ...facts,
    ...leaningOf(facts),
    part,
    own: columns.start,
    pitch: columns.pitch,
    muted: mutedNotes(part),
    ...extentOf(facts),
    msPerTick: 60_000 / (tempo.bpmAt(part.start) * song.ppq),
    halfGapMs: tempo.between(part.start, part.start + lines.gapAt(part.start)) / 2,
  };
}

type Extent = Pick<Picture, 'longest' | 'margin' | 'lowest' | 'highest'>;
/** Kept by the column of ends as they are now, with the other columns that it was found from. */
const extents = new WeakMap<Float64Array, Extent & { readonly by: readonly unknown[] }>();

/** How far the notes reach, in time and in pitch. */
function extentOf(facts: Facts): Extent {
  const { treated, played, playedEnd, now, nowEnd } = facts;
  const by = [treated.columns.start, treated.columns.pitch, played, playedEnd, now];
  let extent = extents.get(nowEnd);
  if (!extent?.by.every((column, i) => column === by[i])) {
    extents.set(nowEnd, (extent = { by, ...newExtent(facts) }));
  }
  const { longest, margin, lowest, highest } = extent;
  return { longest, margin, lowest, highest };
}

function newExtent({ treated: { columns }, count, played, playedEnd, now, nowEnd }: Facts): Extent {
  // Nothing is there yet: the middle of the keyboard is shown.
  if (count === 0) return { longest: 0, margin: 0, lowest: 55, highest: 79 };
  const reach = { longest: 0, margin: 0 };
  const { start, pitch } = columns;
  inBlocks(count, (from, to) => {
    let { longest, margin } = reach;
    for (let i = from; i < to; i++) {
      if (nowEnd[i] - now[i] > longest) longest = nowEnd[i] - now[i];
      if (playedEnd[i] - played[i] > longest) longest = playedEnd[i] - played[i];
      const moved = now[i] > start[i] ? now[i] - start[i] : start[i] - now[i];
      if (moved > margin) margin = moved;
      const taken = played[i] > start[i] ? played[i] - start[i] : start[i] - played[i];
      if (taken > margin) margin = taken;
    }
    reach.longest = longest;
    reach.margin = margin;
  });
  return { ...reach, ...pitchRange(pitch) };
}

/** Everything that the notes of a picture are drawn from. */
export function notesLook(picture: Picture): readonly unknown[] {
  const { played, playedEnd, now, nowEnd, before, after, pitch, muted, silent, part, treated } = picture;
  const { id } = treated.columns;
  return [id, played, playedEnd, now, nowEnd, before, after, pitch, muted, silent, exceptionsOf(part)];
}

/** What the notes under the part's own treatment lean throughout once its lag stage is through, in ms; 0 for no lean. In pieces. */
export function* leanLeft(part: Part, song: Song): Pieces<number> {
  const own = factsOf(part, song).treated.groups.find((g) => g.set === null)?.chords;
  if (!own) return 0;
  const steady = yield* summarizePieces(tempoOf(song).betweenEach(own.line, own.place));
  return leansThroughout(steady) ? steady.median : 0;
}

function mutedNotes(part: Part): Uint8Array {
  if (marksOf(part).muted === 0) return allZero(part.notes.length);
  const muted = new Uint8Array(part.notes.length);
  for (let i = 0; i < muted.length; i++) if (part.notes[i].muted) muted[i] = 1;
  return muted;
}

/** So many offsets of a long part are asked how far they reach: it only sets the lane's scale. */
const ASKED = 2000;

function wide(offsets: Float64Array): number {
  if (offsets.length === 0) return 0;
  const every = Math.ceil(offsets.length / ASKED);
  const sizes = new Float64Array(Math.ceil(offsets.length / every));
  for (let i = 0; i < sizes.length; i++) sizes[i] = Math.abs(offsets[i * every]);
  return quantile(sizes, 0.95);
}

/** The note under a place, the topmost last drawn first; −1 for none. */
export function noteAt(picture: Picture, corrected: boolean, tick: number, pitch: number, slack: number): number {
  const starts = corrected ? picture.now : picture.played;
  const ends = corrected ? picture.nowEnd : picture.playedEnd;
  const { own, margin, longest } = picture;
  for (let i = firstAt(own, tick + slack + margin + 1) - 1; i >= 0; i--) {
    if (own[i] < tick - longest - slack - margin) break;
    if (picture.pitch[i] === pitch && starts[i] - slack <= tick && tick <= ends[i] + slack) return i;
  }
  return -1;
}
