import type { Lines } from '../grid';
import { atOnce, inBlocks, inPieces, whole, type Pieces } from '../maths';
import { notesAt, takeOf, type Note, type Part, type Song, type Track } from '../song';
import type { Ticks } from '../time';
import { bitsOf, factsOf, MARK, partColumns, treatPart } from '../treatment';

/** The side of the compare switch on which notes are seen and taken. */
export type Side = 'played' | 'corrected';

/** A note to be shaped, with where it lies on the side on which it is seen. */
export interface Taken {
  readonly part: Part;
  readonly note: Note;
  readonly start: Ticks;
  readonly length: Ticks;
  readonly velocity: number;
}

/** The lines of a part: each goes by its own treatment. */
export type LinesOf = (part: Part) => Lines;

/** Some notes of a track by id, part by part in the order of their own places; ids of other tracks are left out. */
export function takeUp(song: Song, track: Track, ids: readonly number[], side: Side): Taken[] {
  return atOnce(takeUpPieces(song, track, ids, side));
}

/** {@link takeUp} of very many notes, in pieces. */
export function* takeUpPieces(song: Song, track: Track, ids: readonly number[], side: Side): Pieces<Taken[]> {
  const taken: Taken[] = [];
  for (const part of track.parts) {
    if (taken.length === ids.length) break;
    const at = notesAt(part.notes, ids);
    if (at.length === 0) continue;
    const look = side === 'played' ? null : treatPart(part, song);
    yield* inPieces(at.length, (from, to) => {
      for (let k = from; k < to; k++) {
        const i = at[k];
        const note = part.notes[i];
        if (look) {
          const { start, end, velocity } = look;
          taken.push({ part, note, start: whole(start[i]), length: whole(end[i] - start[i]), velocity: velocity[i] });
        } else {
          const { start, length, velocity } = takeOf(note);
          taken.push({ part, note, start, length, velocity });
        }
      }
    });
  }
  return taken;
}

/** What some notes span in time and pitch, and how many of them are held where they were put. Ticks. */
export interface Span {
  readonly from: Ticks;
  readonly to: Ticks;
  readonly low: number;
  readonly high: number;
  readonly count: number;
  readonly pinned: number;
  /** The parts that they are in. */
  readonly parts: readonly Part[];
}

/** The span of some notes of a track, by id, without taking them up one by one; null for none. */
export function spanOfIds(song: Song, track: Track, ids: readonly number[], side: Side): Span | null {
  const span = { from: Infinity, to: 0, low: 127, high: 0, pinned: 0 };
  let count = 0;
  const parts: Part[] = [];
  for (const part of track.parts) {
    if (count === ids.length) break;
    const at = notesAt(part.notes, ids);
    if (at.length === 0) continue;
    parts.push(part);
    count += at.length;
    const [starts, ends] = placesOf(part, song, side);
    const { pitch } = partColumns(part);
    const bits = bitsOf(part);
    inBlocks(at.length, (first, last) => {
      let { from, to, low, high, pinned } = span;
      for (let k = first; k < last; k++) {
        const i = at[k];
        if (starts[i] < from) from = starts[i];
        if (ends[i] > to) to = ends[i];
        if (pitch[i] < low) low = pitch[i];
        if (pitch[i] > high) high = pitch[i];
        if (bits[i] & MARK.pin) pinned++;
      }
      Object.assign(span, { from, to, low, high, pinned });
    });
  }
  return count > 0 ? { ...span, count, parts } : null;
}

/** Where a part's notes start and end on a side. Ticks. */
function placesOf(part: Part, song: Song, side: Side): readonly [Float64Array, Float64Array] {
  if (side === 'played') {
    const { played, playedEnd } = factsOf(part, song);
    return [played, playedEnd];
  }
  const { start, end } = treatPart(part, song);
  return [start, end];
}

/** From the first start to the last end of some notes; null for none. Ticks. */
export function spanOf(taken: readonly Taken[]): { readonly from: Ticks; readonly to: Ticks } | null {
  if (taken.length === 0) return null;
  const span = { from: Infinity, to: 0 };
  inBlocks(taken.length, (first, last) => {
    let { from, to } = span;
    for (let k = first; k < last; k++) {
      const { start, length } = taken[k];
      if (start < from) from = start;
      if (start + length > to) to = start + length;
    }
    Object.assign(span, { from, to });
  });
  return span;
}

/** Notes in the order of where they lie. */
export function inOrderOfPlace(taken: readonly Taken[]): Taken[] {
  return [...taken].sort((a, b) => a.start - b.start || a.note.pitch - b.note.pitch || a.note.id - b.note.id);
}
