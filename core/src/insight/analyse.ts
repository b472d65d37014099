import { formatGrid, gridLines, isSwung, parseGrid, SWING_MAX, SWING_MIN, type Grid, type SongTime } from '../grid';
import { timeOf, type Part, type SongTimes } from '../song';
import type { Progress } from '../follow';
import { groupChords, partColumns, type Chords, type NoteColumns } from '../treatment';
import { accentBits, type OnLines } from './accents';
import { followBest, followedOf, isDrift, suggestUnderDrift, type DriftSuggestion } from './drifting';
import { findLag, wanderingLag, type Lag } from './lag';
import { reasonFor } from './reason';
import { salience, type Heard } from './salience';
import { CLEAR_BITS, ENOUGH, suggestGrids, type Fit, type Reading, type Suggestion } from './suggest';
import { measureSwing, measureSwingBeside, swingShare, type Swing } from './swing';

/** What a part's notes tell about how they were meant and how they were played. */
export interface Analysis extends Suggestion {
  /** Against the best grid; null where there are no notes. */
  readonly lag: Lag | null;
  /** Null where the playing is not swung. */
  readonly swing: Swing | null;
  readonly readings: readonly MeasuredReading[];
}

/** What the playing could be under another lag, measured like the best. */
export interface MeasuredReading extends Reading {
  readonly lag: Lag;
  readonly swing: Swing | null;
}

/** A swung form that is this many bits behind in all still tells of swing: one triplet in three may be missing. */
const SWING_WITHIN = 12;

/** A measured swing further from the searched one than this is not the same swing. */
const SWING_NEAR = 0.03;

/** Chords as they are before any grid is known: notes within 30 ms, or less where thirty-seconds are close. */
export function freeChords(columns: NoteColumns, time: SongTime): Float64Array {
  return freeGroups(columns, time).place;
}

function freeGroups(columns: NoteColumns, time: SongTime): Chords {
  return groupChords(columns, columns.start, gridLines(parseGrid('1/32'), time), time, 30);
}

/** How much each chord stands out, in standard deviations. */
function accentsOf({ velocity, pitch }: NoteColumns, { first, count }: Chords): Float64Array {
  const heard = Array.from({ length: count }, (_, c): Heard => {
    const [from, to] = [first[c], first[c + 1]];
    const all = { velocity: 0, pitch: 127, notes: to - from };
    for (let i = from; i < to; i++) {
      all.velocity = Math.max(all.velocity, velocity[i]);
      all.pitch = Math.min(all.pitch, pitch[i]);
    }
    return all;
  });
  return salience(heard);
}

/** Suggests grids for a part and measures lag and swing on the best. */
export function analysePart(part: Part, song: SongTimes, progress?: Progress): Analysis {
  return analyseColumns(partColumns(part), song, progress);
}

/** The same for notes as columns, which go to a worker a hundred times as quickly as objects. */
export function analyseColumns(columns: NoteColumns, song: SongTimes, progress?: Progress): Analysis {
  const time = timeOf(song);
  const groups = freeGroups(columns, time);
  return analysePlaces(groups.place, time, progress, accentsOf(columns, groups));
}

/**
 * A part's lag against a grid that was chosen: its analysis tells it where that grid is the one that fits best. Null
 * without notes.
 * @param places gives the chords' places in ticks, ascending; asked only where another grid fits best
 */
export function lagAgainst({ fits, lag }: Analysis, g: Grid, places: () => Float64Array, time: SongTime): Lag | null {
  if (fits.at(0)?.text === formatGrid(g)) return lag;
  const place = places();
  if (place.length === 0) return null;
  const followed = followBest(place, g, time);
  if (isDrift(followed, g, time, place[0])) return wanderingLag(followed);
  // The lag that the analysis found says which lines are meant.
  return findLag(place, g, lag?.ms ?? followed.lag, time);
}

/**
 * Suggests grids for chords' places in ticks, ascending, and measures lag and swing on the best.
 * @param accents how much each chord stands out, in standard deviations: where several lags are possible, strong places
 *   stand out more than weak ones
 */
export function analysePlaces(
  place: Float64Array,
  time: SongTime,
  progress?: Progress,
  accents?: Float64Array,
): Analysis {
  const steady = suggestGrids(place, time, (share) => progress?.(share * 0.4));
  if (steady.fits.length === 0) return { ...steady, readings: [], lag: null, swing: null };
  const drift = suggestUnderDrift(place, time, steady, (share) => progress?.(0.4 + share * 0.6));
  // Along a drift all is measured on the take without it.
  const straight = drift ? drift.straight : place;
  const found = drift ? drift.suggestion : steady;
  const swingOf = ({ grid, lagMs }: Fit): Swing | null =>
    isSwung(grid) ? measureSwing(straight, grid, lagMs, time) : null;
  // Only for the first grid is it known which line each chord takes along the drift.
  const [first] = found.fits;
  const firstSwing =
    drift && isSwung(first.grid)
      ? measureSwingBeside(drift.place, drift.followed.line, first.grid, time)
      : swingOf(first);
  // Of the other grids only the share is needed.
  const measure = (fit: Fit) =>
    withSwing(fit, isSwung(fit.grid) ? swingShare(straight, fit.grid, fit.lagMs, time) : null);
  const measured = found.fits.map((fit) => (fit === first ? withSwing(fit, firstSwing?.share ?? null) : measure(fit)));
  const wanders = drift !== null && isDrift(drift.followed, measured[0].grid, time, place[0]);
  const fits = measured.map((fit, i) => ({ ...fit, reason: reasonFor(fit, measured[0], i, found.chords, wanders) }));
  const suggestion = { ...found, fits };
  const [best] = suggestion.fits;
  const measuredLag = wanders ? wanderingLag(drift.followed) : findLag(place, best.grid, best.lagMs, time);
  const swung = swungFit(suggestion);
  const swing = swung && (swung === best ? firstSwing : swingOf(swung));
  const readings = suggestion.readings.map(({ fit, behind }) => {
    const own = measure(fit);
    const lag = wanders
      ? { ...measuredLag, ms: own.lagMs, sure: false }
      : { ...findLag(place, own.grid, own.lagMs, time), sure: false };
    return { fit: own, behind, lag, swing: swingOf(own) };
  });
  const plain = { ...suggestion, lag: measuredLag, swing, readings };
  return sureOrNot(accents ? byAccents(plain, place, wanders ? drift : null, accents, time) : plain);
}

/** A reading that is not the first has to be the better by so many bits for its accents. */
const AGAINST_OTHER = 1;

/** The analysis by the reading under which strong places stand out, where accents tell one. */
function byAccents(
  analysis: Analysis,
  place: Float64Array,
  drift: DriftSuggestion | null,
  accents: Float64Array,
  time: SongTime,
): Analysis {
  const { lag, fits } = analysis;
  if (!lag || analysis.readings.length === 0) return analysis;
  // Along a drift the lines are known; a lag beside moves them.
  const line = drift ? drift.followed.line : place;
  const heard = drift ? followedOf(accents) : accents;
  const told = (grid: Grid, ms: number) => {
    const on: OnLines = { grid, later: drift ? ms - lag.ms : ms, line };
    return accentBits(on, heard, time);
  };
  const first = told(fits[0].grid, lag.ms);
  const readings = analysis.readings
    // What was found first is the better by itself, whatever a sample of it says.
    .map((r) => ({ ...r, behind: Math.max(0, r.behind) + first - told(r.fit.grid, r.lag.ms) }))
    .sort((a, b) => a.behind - b.behind);
  const [best] = readings;
  if (best.behind >= -AGAINST_OTHER) return { ...analysis, readings };
  const other = readAs({ ...analysis, readings }, best);
  const others = other.readings.map((r) => (r.behind === -best.behind ? r : { ...r, behind: r.behind - best.behind }));
  return { ...other, readings: others.sort((a, b) => a.behind - b.behind) };
}

/** A lag is sure where no other is near. */
function sureOrNot(analysis: Analysis): Analysis {
  const { lag, chords, readings } = analysis;
  const near = readings.at(0)?.behind ?? Infinity;
  return lag ? { ...analysis, lag: { ...lag, sure: chords >= ENOUGH && near >= CLEAR_BITS } } : analysis;
}

/** An analysis by one of its readings: its grid comes first, and lag and swing are those that were measured with it. */
export function readAs(analysis: Analysis, reading: MeasuredReading): Analysis {
  const { fits, lag, swing } = analysis;
  const [best] = fits;
  const { behind } = reading;
  const others = fits.filter((f) => f.text !== reading.fit.text);
  const back = lag ? [{ fit: best, behind: -behind, lag: { ...lag, sure: false }, swing }] : [];
  return {
    ...analysis,
    fits: [reading.fit, ...others],
    lag: reading.lag,
    swing: reading.swing,
    readings: [...back, ...analysis.readings.filter((r) => r !== reading)],
  };
}

/** A swung fit with its swing as it was measured, which is finer than the search for the grid. */
function withSwing(fit: Fit, measured: number | null): Fit {
  if (measured === null) return fit;
  const swing = Math.min(SWING_MAX, Math.max(SWING_MIN, Math.round(measured * 1000) / 1000));
  // Far from the search's own answer it was measured on other lines than those that fit.
  if (Math.abs(swing - fit.grid.swing) > SWING_NEAR) return fit;
  const grid = { ...fit.grid, swing };
  return { ...fit, grid, text: formatGrid(grid) };
}

/** The suggestion's swung grid, if it is the best or as good as the best. */
function swungFit({ fits, chords }: Suggestion): Fit | null {
  const best = fits[0];
  if (isSwung(best.grid)) return best;
  const swung = fits.find((f) => isSwung(f.grid));
  if (!swung || best.grid.shape === 'straight') return null;
  return (best.bits - swung.bits) * chords <= SWING_WITHIN ? swung : null;
}
