import { counted } from '../song';
import type { TempoMap, Ticks } from '../time';
import { problem } from './problem';
import { reshape, type Shaped } from './reshape';
import { inOrderOfPlace, spanOf, type LinesOf, type Taken } from './taken';
import type { Track } from '../song';

/** Notes whose starts lie this close together are one chord, in ms (Goebl 2001: a melody leads by about 30). */
const CHORD_MS = 30;
/** No note lies beyond it. Ticks. */
const FURTHEST = 2 ** 40;

/** Moves one end of notes: by the same time all, or each in proportion to its length, as the note in hand is changed. */
export function resize(
  track: Track,
  taken: readonly Taken[],
  { edge, by, held }: { readonly edge: 'start' | 'end'; readonly by: Ticks; readonly held: Taken | null },
): Shaped {
  const name = `${edge === 'start' ? 'Move the start of' : 'Resize'} ${counted(taken.length, 'note')}`;
  if (edge === 'end') {
    const factor = held && Math.max(1, held.length + by) / Math.max(1, held.length);
    return reshape(name, track, taken, ({ length }) => ({
      length: factor === null ? length + by : length * factor,
    }));
  }
  // The group stops where its first note reaches the song's start.
  const least = spanOf(taken)?.from ?? 0;
  const moved = Math.max(by, -least);
  const factor = held && Math.max(1, held.length - moved) / Math.max(1, held.length);
  return reshape(name, track, taken, ({ start, length }) => {
    const end = start + length;
    const to = Math.max(0, Math.min(end - 1, factor === null ? start + moved : end - length * factor));
    return { start: to, length: end - to };
  });
}

/** Stretches notes around the first start: their places and their lengths. @param factor above 0 */
export function stretch(track: Track, taken: readonly Taken[], factor: number): Shaped {
  if (!(factor > 0) || factor > 1000) return problem('Choose a factor between 0 and 1000, such as 2 or 0.5.');
  const span = spanOf(taken);
  if (!span) return null;
  if (span.from + (span.to - span.from) * factor > FURTHEST)
    return problem('That would reach beyond the longest song.');
  const name = `Stretch ${counted(taken.length, 'note')} by ${Math.round(factor * 1000) / 1000}`;
  return reshape(name, track, taken, ({ start, length }) => ({
    start: span.from + (start - span.from) * factor,
    length: length * factor,
  }));
}

/** Turns notes around in time: the last end becomes the first start. */
export function reverse(track: Track, taken: readonly Taken[]): Shaped {
  const span = spanOf(taken);
  if (!span) return null;
  return reshape(`Reverse ${counted(taken.length, 'note')}`, track, taken, ({ start, length }) => ({
    start: span.from + span.to - start - length,
  }));
}

/** Each note rings until the next chord begins; the last one keeps its length. */
export function legato(track: Track, taken: readonly Taken[], tempo: TempoMap): Shaped {
  const starts = inOrderOfPlace(taken).map((t) => t.start);
  return reshape(`Legato: ${counted(taken.length, 'note')}`, track, taken, ({ start }) => {
    const chord = tempo.shift(start, CHORD_MS);
    const next = starts[firstBeyond(starts, chord)] as Ticks | undefined;
    return next === undefined ? null : { length: next - start };
  });
}

/** Gives notes one length. @param length ticks, at least 1 */
export function fixedLength(track: Track, taken: readonly Taken[], length: Ticks): Shaped {
  if (!(length >= 1)) return problem('Choose a length of at least one tick.');
  return reshape(`Set the length of ${counted(taken.length, 'note')}`, track, taken, () => ({ length }));
}

/** Lets notes ring to the next line behind their end; those that end on a line stay. */
export function toNextLine(track: Track, taken: readonly Taken[], linesOf: LinesOf): Shaped {
  return reshape(
    `Lengthen ${counted(taken.length, 'note')} to the next line`,
    track,
    taken,
    ({ part, start, length }) => {
      const lines = linesOf(part);
      lines.locate(start + length - 0.5);
      return { length: lines.after - start };
    },
  );
}

/** Lets notes ring to the end of their part. */
export function toPartEnd(track: Track, taken: readonly Taken[]): Shaped {
  return reshape(`Lengthen ${counted(taken.length, 'note')} to the end`, track, taken, ({ start, part }) =>
    part.end > start ? { length: part.end - start } : null,
  );
}

/** Makes notes a step of the grid longer or shorter; one of a step or less is halved. @param by 1 or −1 */
export function byStep(track: Track, taken: readonly Taken[], linesOf: LinesOf, by: 1 | -1): Shaped {
  const name = `${by > 0 ? 'Lengthen' : 'Shorten'} ${counted(taken.length, 'note')}`;
  return reshape(name, track, taken, ({ part, start, length }) => {
    const step = linesOf(part).gapAt(start);
    if (by > 0) return { length: length + step };
    return { length: length > step ? length - step : length / 2 };
  });
}

/** Index of the first number beyond a limit in an ascending list. */
function firstBeyond(list: readonly number[], limit: number): number {
  let low = 0;
  let high = list.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (list[middle] > limit) high = middle;
    else low = middle + 1;
  }
  return low;
}
