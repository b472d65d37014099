import { stepTicks } from '../grid';
import { atOnce, median, type Pieces } from '../maths';
import { timeOf, partsOf, type Part, type Song } from '../song';
import { addAmount } from '../time';
import { treatPart } from '../treatment';
import { leansThroughout, offsetsPieces } from './offsets';

/** A song whose tracks lie beside its bars together. */
export interface SongLean {
  /** ms; early is negative. */
  readonly ms: number;
  /** The parts that lean so. */
  readonly parts: readonly Part[];
}

/** Tracks with fewer chords say nothing. */
const ENOUGH_CHORDS = 8;
const FEWEST_TRACKS = 3;
const LEAST_MS = 8;
/** Medians this close to each other are the same lean, in ms. */
const ALIKE_MS = 6;
/** So much more often must the beats be played for a lean that is a gap larger. */
const CLEARLY = 1.5;

/**
 * The lean that most tracks of a song share as it sounds now; null where there is none. A lean is known up to a
 * whole gap between lines only: of its possibilities the one counts under which the beats are played most.
 */
export function songLean(song: Song): SongLean | null {
  return atOnce(songLeanPieces(song));
}

/** {@link songLean} of a song with very many notes, in pieces. */
export function* songLeanPieces(song: Song): Pieces<SongLean | null> {
  const found: { part: Part; ms: number; steady: boolean }[] = [];
  for (const { part } of partsOf(song)) {
    const { now } = yield* offsetsPieces(part, song);
    if (part.on && now.chords >= ENOUGH_CHORDS) found.push({ part, ms: now.median, steady: leansThroughout(now) });
  }
  if (found.length < FEWEST_TRACKS) return null;
  const common = median(Float64Array.from(found, (f) => f.ms));
  const alike = found.filter((f) => f.steady && Math.abs(f.ms - common) <= ALIKE_MS);
  if (Math.abs(common) < LEAST_MS || alike.length * 2 <= found.length) return null;
  const parts = alike.map((f) => f.part);
  return { ms: likeliest(median(Float64Array.from(alike, (f) => f.ms)), parts, song), parts };
}

/** A lean, or the same a gap further, by how many chords lie on beats once it is gone. */
function likeliest(ms: number, parts: readonly Part[], song: Song): number {
  const { tempo } = timeOf(song);
  const step = stepTicks(parts[0].treatment.quantize.grid, song.ppq);
  const gap = tempo.between(0, step);
  const other = ms > 0 ? ms - gap : ms + gap;
  const own = onBeats(ms, parts, song);
  return onBeats(other, parts, song) > own * CLEARLY ? other : ms;
}

function onBeats(ms: number, parts: readonly Part[], song: Song): number {
  const { tempo, meter } = timeOf(song);
  let count = 0;
  for (const part of parts) {
    for (const start of treatPart(part, song).start) {
      const at = addAmount(start, { value: -ms, unit: 'ms' }, tempo);
      const { beatTicks, tick } = meter.pieceAt(Math.max(0, at));
      const inBeat = (((at - tick) % beatTicks) + beatTicks) % beatTicks;
      const away = Math.min(inBeat, beatTicks - inBeat);
      if (Math.abs(tempo.between(at, at + away)) <= 10) count++;
    }
  }
  return count;
}
