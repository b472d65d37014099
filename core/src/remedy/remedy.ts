import { gridLines, type Grid, type SongTime } from '../grid';
import { findLag, freeChords, leavesBeat, readTogether, type Analysis, type Lag } from '../insight';
import { byPlace, timeOf, type Note, type Song, type Track, type Treatment } from '../song';
import type { Ms } from '../time';
import { toColumns } from '../treatment';

/** Why a track's remedy is not sure. */
export type Doubt =
  /** Too few notes tell anything. */
  | 'few-notes'
  /** Another grid explains the notes nearly as well. */
  | 'grid'
  /** The notes could have another lag. */
  | 'lag'
  /** The lag lies apart from what the other tracks have. */
  | 'apart'
  /** The player wanders against the bars. */
  | 'wanders'
  /** It was not played to the song's tempo. */
  | 'tempo'
  /** The notes lie too loosely around the lines. */
  | 'loose'
  /** Chords would merge. */
  | 'merges';

/** What becomes of a track: a lag that is removed, and the lines that its starts are put on. */
export interface Setting {
  /** 0 removes none. */
  readonly lagMs: Ms;
  readonly grid: Grid;
  readonly lines: 'nearest' | 'follow';
}

/** What a track needs, as far as its notes and the other tracks tell. */
export interface Remedy {
  /** Id of the track. */
  readonly track: string;
  readonly chords: number;
  readonly analysis: Analysis | null;
  /**
   * `sure` and `doubtful`: something would change. `good`: it lies on its lines already. `treated`: somebody has decided
   * already. `empty`: it has no notes.
   */
  readonly state: 'sure' | 'doubtful' | 'good' | 'treated' | 'empty';
  /** The gravest first. */
  readonly doubts: readonly Doubt[];
  /** Null where nothing is proposed. */
  readonly setting: Setting | null;
}

/** Below this many chords nothing is sure. */
const FEW = 32;
/** So many bits in all the best must be ahead of other grids, and of other lags. */
const AHEAD = 6;
/** A typical miss beyond this share of the gap between lines is loose: many notes are as near to another line. */
const LOOSE = 0.16;
/** A player who wanders by less than this share of the gap, with the usual miss, is always nearest to the line that is meant. */
const WANDER = 0.3;
/** Lines closer than this are one, and grids that put no more than this share of the chords on others are as good. */
const SAME_LINE: Ms = 3;
const ELSEWHERE = 0.01;
/** More merges than this share of the chords make a grid doubtful. */
const MERGES = 0.02;
/** A lag so far from what the other tracks have in common is doubtful. */
const APART: Ms = 30;
/** A smaller lag is none; with a lag and a typical miss below the other a track is good as it is. */
const LEAST_LAG: Ms = 1;
const LEAST_MISS: Ms = 3;

/** All notes of a track in order of place: what its analysis goes by. The part's own list where it has one part only. */
export function trackNotes(track: Track): readonly Note[] {
  const [only, second] = track.parts;
  if (!only) return [];
  return second ? track.parts.flatMap((p) => p.notes).sort(byPlace) : only.notes;
}

/**
 * What each track needs, the tracks looked at together: lags of one song are alike more often than not.
 * @param analyses one for each track, of {@link trackNotes}; null for a track without notes
 */
export function remediesOf(song: Song, analyses: readonly (Analysis | null)[]): Remedy[] {
  const read = readTogether(analyses);
  return song.tracks.map((track, i) => remedyOf(song, track, read[i] ?? null, commonLag(read, i)));
}

function remedyOf(song: Song, track: Track, analysis: Analysis | null, common: Ms | null): Remedy {
  const chords = analysis?.chords ?? 0;
  const base = { track: track.id, chords, analysis };
  const [best] = analysis?.fits ?? [];
  if (!analysis?.lag || !best) return { ...base, state: 'empty', doubts: [], setting: null };
  const time = timeOf(song);
  const gap = smallestGap(best.grid, time);
  const wanders = analysis.lag.drifting && analysis.lag.wanderMs + 2 * best.missMs > WANDER * gap;
  // Most tracks never ask for it.
  let chordPlaces: Float64Array | null = null;
  const place = () => (chordPlaces ??= freeChords(toColumns(trackNotes(track)), time));
  // Who wanders a little is nowhere near another line: the lag is measured as a steady player's.
  const lag =
    analysis.lag.drifting && !wanders
      ? { ...findLag(place(), best.grid, analysis.lag.ms, time), sure: analysis.lag.sure }
      : analysis.lag;
  const ms = Math.abs(lag.ms) < LEAST_LAG ? 0 : Math.round(lag.ms * 10) / 10;
  const setting: Setting = { lagMs: ms, grid: best.grid, lines: wanders ? 'follow' : 'nearest' };
  const doubts = doubtsOf(song, track, { analysis, lag, gap, wanders, common, place });
  if (isTreated(track)) return { ...base, state: 'treated', doubts, setting };
  if (!wanders && Math.abs(lag.ms) < LEAST_MISS && best.missMs < LEAST_MISS) {
    return { ...base, state: 'good', doubts: [], setting: null };
  }
  return { ...base, state: doubts.length > 0 ? 'doubtful' : 'sure', doubts, setting };
}

/** The smallest distance between two lines of the song's first bar, in ms: of mixed lines it is a part of a step. */
function smallestGap(grid: Grid, time: SongTime): Ms {
  const bar = time.meter.nextBarStart(0);
  const lines = [...gridLines(grid, time).between(0, bar), bar];
  return lines.slice(1).reduce((least, line, i) => Math.min(least, time.tempo.between(lines[i], line)), Infinity);
}

interface Known {
  readonly analysis: Analysis;
  readonly lag: Lag;
  /** The smallest between lines. */
  readonly gap: Ms;
  readonly wanders: boolean;
  readonly common: Ms | null;
  /** Chords in ticks, worked out when they are asked for. */
  readonly place: () => Float64Array;
}

function doubtsOf(song: Song, { parts }: Track, { analysis, lag, gap, wanders, common, place }: Known): Doubt[] {
  const { readings, chords } = analysis;
  const [best] = analysis.fits;
  const doubts: [Doubt, boolean][] = [
    ['tempo', leavesBeat(analysis.lag!, parts[0], song)],
    ['wanders', wanders],
    ['few-notes', chords < FEW],
    ['lag', !lag.sure || (readings.at(0)?.behind ?? Infinity) < AHEAD],
    [
      'grid',
      isUnusual(best.grid) ||
        (analysis.lag!.drifting && best.grid.mix !== null) ||
        isContested(analysis, lag, place, timeOf(song)),
    ],
    ['apart', common !== null && Math.abs(lag.ms - common) > APART],
    ['loose', best.missMs > LOOSE * gap],
    ['merges', best.merges > MERGES * chords],
  ];
  const found = doubts.flatMap(([doubt, is]) => (is ? [doubt] : []));
  // Whoever left the tempo wanders anyway.
  return found.includes('tempo') ? found.filter((d) => d !== 'wanders') : found;
}

/** Whether a grid has lines that hardly anybody plays: other tuplets than triplets. Along a player's wandering they are found by chance. */
function isUnusual({ shape, mix }: Grid): boolean {
  return [shape, mix?.shape].some((s) => typeof s === 'object' && s.n !== 3 && s.n !== 6);
}

/** Whether another grid that explains the notes nearly as well would put some of them on other lines. */
function isContested({ fits, chords }: Analysis, lag: Lag, placeOf: Known['place'], time: SongTime): boolean {
  const [best, ...others] = fits;
  const near = others.filter((f) => !isUnusual(f.grid) && (best.bits - f.bits) * chords < AHEAD);
  if (near.length === 0) return false;
  const place = placeOf();
  const own = linesOf(place, best.grid, lag.ms, time);
  return near.some((f) => {
    const their = linesOf(place, f.grid, lag.ms, time);
    const apart = own.filter((line, i) => Math.abs(time.tempo.between(line, their[i])) > SAME_LINE).length;
    return apart > ELSEWHERE * chords;
  });
}

function linesOf(place: Float64Array, grid: Grid, lag: Ms, time: SongTime): Float64Array {
  const lines = gridLines(grid, time);
  return place.map((tick) => lines.nearest(time.tempo.shift(tick, -lag)));
}

/**
 * The lag that the other tracks have in common, where it is sure for two or more of them and they agree.
 * @param read the analyses of all tracks
 * @param own index of the one that does not count
 */
export function commonLag(read: readonly (Analysis | null)[], own: number): Ms | null {
  const lags = read
    .flatMap((a, i) => (i !== own && a?.lag?.sure && !a.lag.drifting ? [a.lag.ms] : []))
    .sort((a, b) => a - b);
  if (lags.length < 2) return null;
  const middle = lags[lags.length >> 1];
  return lags.filter((ms) => Math.abs(ms - middle) <= APART / 2).length * 2 > lags.length ? middle : null;
}

/** Whether somebody has decided something about a track's timing already. */
export function isTreated({ parts }: Track): boolean {
  return parts.some(
    ({ treatment: { lag, quantize, push, humanize }, notes }) =>
      lag.on || quantize.on || push.on || humanize.on || notes.some((n) => n.exception !== undefined),
  );
}

/** Whether a track has what is proposed for it. */
export function isApplied({ parts }: Track, { setting }: Remedy, strength: number): boolean {
  if (!setting) return false;
  return parts.every(
    ({ treatment }) => JSON.stringify(remedied(treatment, setting, strength)) === JSON.stringify(treatment),
  );
}

/** A part's treatment with what is proposed for its track; all its other stages stay. */
export function remedied(t: Treatment, { lagMs, grid, lines }: Setting, strength: number): Treatment {
  const { restart: _restart, shift: _shift, ...value } = grid;
  return {
    ...t,
    lag: { on: lagMs !== 0, amount: { value: lagMs, unit: 'ms' } },
    quantize: {
      ...t.quantize,
      on: true,
      starts: true,
      groove: null,
      grid: { ...t.quantize.grid, ...value },
      lines,
      strength,
      times: 1,
    },
  };
}
