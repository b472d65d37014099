import { formatGrid, gridLines, isSwung, parseGrid, SWING_MAX, SWING_MIN, type Grid, type SongTime } from '../grid';
import { timeOf, type Part, type SongTimes } from '../song';
import { followLines, type Progress } from '../follow';
import { chordMedian, groupChords, partColumns, type NoteColumns } from '../treatment';
import { findLag, type Lag } from './lag';
import { reasonFor } from './reason';
import { suggestGrids, type Fit, type Suggestion } from './suggest';
import { measureSwing, type Swing } from './swing';

/** What a part's notes tell about how they were meant and how they were played. */
export interface Analysis extends Suggestion {
  /** Against the best grid; null where there are no notes. */
  readonly lag: Lag | null;
  /** Null where the playing is not swung. */
  readonly swing: Swing | null;
}

/** A swung form that is this many bits behind in all still tells of swing: one triplet in three may be missing. */
const SWING_WITHIN = 12;

/** A measured swing further from the searched one than this is not the same swing. */
const SWING_NEAR = 0.03;

/** Chords as they are before any grid is known: notes within 30 ms, or less where thirty-seconds are close. */
export function freeChords(columns: NoteColumns, time: SongTime): Float64Array {
  const lines = gridLines(parseGrid('1/32'), time);
  const { first, count } = groupChords(columns, columns.start, lines, time, 30);
  return Float64Array.from({ length: count }, (_, c) => chordMedian(columns.start, first[c], first[c + 1]));
}

/** Suggests grids for a part and measures lag and swing on the best. */
export function analysePart(part: Part, song: SongTimes, progress?: Progress): Analysis {
  return analyseColumns(partColumns(part), song, progress);
}

/** The same for notes as columns, which go to a worker a hundred times as quickly as objects. */
export function analyseColumns(columns: NoteColumns, song: SongTimes, progress?: Progress): Analysis {
  const time = timeOf(song);
  return analysePlaces(freeChords(columns, time), time, progress);
}

/** The same for chords' places in ticks, ascending. */
export function analysePlaces(place: Float64Array, time: SongTime, progress?: Progress): Analysis {
  const found = suggestGrids(place, time, (share) => progress?.(share * 0.7));
  if (found.fits.length === 0) return { ...found, lag: null, swing: null };
  const measured = found.fits.map((fit) => withMeasuredSwing(fit, place, time));
  const fits = measured.map((fit, i) => ({ ...fit, reason: reasonFor(fit, measured[0], i, found.chords) }));
  const suggestion = { ...found, fits };
  const [best] = suggestion.fits;
  const drifting = isDrifting(place, best.grid, best.lagMs, time, (share) => progress?.(0.7 + share * 0.3));
  const lag = findLag(place, best.grid, best.lagMs, time, drifting);
  const swung = swungFit(suggestion);
  const swing = swung ? measureSwing(place, swung.grid, swung.lagMs, time) : null;
  return { ...suggestion, lag, swing };
}

/** A swung fit with its swing as it was measured, which is finer than the search for the grid. */
function withMeasuredSwing(fit: Fit, place: Float64Array, time: SongTime): Fit {
  if (!isSwung(fit.grid)) return fit;
  const measured = measureSwing(place, fit.grid, fit.lagMs, time);
  if (!measured) return fit;
  const swing = Math.min(SWING_MAX, Math.max(SWING_MIN, Math.round(measured.share * 1000) / 1000));
  // Far from the search's own answer it was measured on other lines than those that fit.
  if (Math.abs(swing - fit.grid.swing) > SWING_NEAR) return fit;
  const grid = { ...fit.grid, swing };
  return { ...fit, grid, text: formatGrid(grid) };
}

/** Whether the player's time wanders, by the fitted model of {@link followLines}. */
export function isDrifting(place: Float64Array, g: Grid, lag: number, time: SongTime, progress?: Progress): boolean {
  const steady = place.map((tick) => time.tempo.shift(tick, -lag));
  return followLines(steady, gridLines(g, time), time, g, progress).wander > 0;
}

/** The suggestion's swung grid, if it is the best or as good as the best. */
function swungFit({ fits, chords }: Suggestion): Fit | null {
  const best = fits[0];
  if (isSwung(best.grid)) return best;
  const swung = fits.find((f) => isSwung(f.grid));
  if (!swung || best.grid.shape === 'straight') return null;
  return (best.bits - swung.bits) * chords <= SWING_WITHIN ? swung : null;
}
