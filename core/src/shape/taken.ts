import type { Lines } from '../grid';
import { gathered, inBlocks, inPieces, whole, type Pieces } from '../maths';
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
  return gathered((act) => takingUp(song, track, ids, side, act));
}

/**
 * Goes through the notes that {@link takeUp} would list, in pieces. A list of a million is garbage as soon as it was used,
 * and collecting it makes the page wait; here only some exist at a time.
 * @param act gets some notes at a time
 */
export function* takingUp(
  song: Song,
  track: Track,
  ids: readonly number[],
  side: Side,
  act: (some: readonly Taken[]) => void,
): Pieces<void> {
  let left = ids.length;
  for (const part of track.parts) {
    if (left === 0) break;
    const at = notesAt(part.notes, ids);
    if (at.length === 0) continue;
    left -= at.length;
    const look = side === 'played' ? null : treatPart(part, song);
    yield* inPieces(at.length, (from, to) => {
      const some: Taken[] = [];
      for (let k = from; k < to; k++) {
        const i = at[k];
        const note = part.notes[i];
        if (look) {
          const { start, end, velocity } = look;
          some.push({ part, note, start: whole(start[i]), length: whole(end[i] - start[i]), velocity: velocity[i] });
        } else {
          const { start, length, velocity } = takeOf(note);
          some.push({ part, note, start, length, velocity });
        }
      }
      act(some);
    });
  }
}

/** What some notes span in time and pitch, and how many of them are held where they were put. Ticks. */
export interface Span {
  readonly from: Ticks;
  readonly to: Ticks;
  /** The pitches that occur, ascending. */
  readonly pitches: readonly number[];
  readonly count: number;
  readonly pinned: number;
  /** The parts that they are in. */
  readonly parts: readonly Part[];
}

/** The span of some notes of a track, by id, without taking them up one by one; null for none. */
export function spanOfIds(song: Song, track: Track, ids: readonly number[], side: Side): Span | null {
  const span = { from: Infinity, to: 0, pinned: 0 };
  const sounds = new Uint8Array(128);
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
      let { from, to, pinned } = span;
      for (let k = first; k < last; k++) {
        const i = at[k];
        if (starts[i] < from) from = starts[i];
        if (ends[i] > to) to = ends[i];
        sounds[pitch[i]] = 1;
        if (bits[i] & MARK.pin) pinned++;
      }
      Object.assign(span, { from, to, pinned });
    });
  }
  if (count === 0) return null;
  const pitches = [...sounds.keys()].filter((key) => sounds[key] === 1);
  return { ...span, pitches, count, parts };
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
