import { barPattern, formatGrid, gridLines, parseGrid, SWING_MAX, type Grid, type SongTime } from '../grid';
import { median } from '../maths';
import type { Progress } from '../follow';
import { linesInBars, penaltyOf, plainCandidates, SWINGS, SWUNG_VALUES, type Candidate } from './candidates';
import { codeLength } from './code-length';
import { barHistograms, type BarHistogram } from './histogram';
import { reasonFor } from './reason';

/** A grid weighed against the playing. */
export interface Fit {
  readonly grid: Grid;
  /** Its text form, such as `1/16 ~62%`. */
  readonly text: string;
  /** Bits that it saves for each chord against no grid at all. */
  readonly bits: number;
  /** Typical (median) size of an offset once the lag is gone, in ms. */
  readonly missMs: number;
  /** Chords that would come to share a line with the chord before them. */
  readonly merges: number;
  /** The lag under which it fits best, in ms. */
  readonly lagMs: number;
  /** One plain sentence. */
  readonly reason: string;
}

/** What the playing could be too: another grid, or the same one, under another lag. */
export interface Reading {
  readonly fit: Fit;
  /** Bits in all that it takes more than the best. */
  readonly behind: number;
}

export interface Suggestion {
  readonly chords: number;
  /** Best first. */
  readonly fits: readonly Fit[];
  /** Whether the first is clearly better than the second. */
  readonly sure: boolean;
  /** The best under other lags that explain the playing nearly as well, best first. */
  readonly readings: readonly Reading[];
}

/** Below this many chords nothing is sure. */
export const ENOUGH = 16;
/** The best must be ahead by so many bits in all. */
export const CLEAR_BITS = 6;
/** Lags closer than this are one, in ms. */
const APART = 10;
/** Other lags are told where they take no more than so many bits more. */
export const NEAR_BITS = 20;
const MOST_READINGS = 3;
const MOST_LAG = 70;
/** So many of the best are told with all their figures. */
const TOLD = 12;

/** Lags in steps of 5 ms are as good as the best within this many bits: half a step costs so much. */
const CLOSE_BITS = 6;
const CLOSE_BITS_A_CHORD = 0.25;

/**
 * With a finer straight set beside it, swing is looked for no further: there its off-beat nears the next of these lines,
 * and half a beat aside the same notes are another groove.
 */
const MIXED_SWING_MAX = 0.7;

interface Weighed {
  readonly grid: Grid;
  readonly bits: number;
  readonly lag: number;
}

/**
 * Ranks grids by how short a description of the playing they give (the minimum description length
 * principle: Rissanen 1978). It prefers the coarsest grid that still explains the playing.
 * @param place chords' places in ticks, ascending
 */
export function suggestGrids(place: Float64Array, time: SongTime, progress?: Progress): Suggestion {
  const chords = place.length;
  if (chords === 0) return { chords, fits: [], sure: false, readings: [] };
  const bars = barHistograms(place, time);
  const { ppq } = time.meter;
  const plain = plainCandidates();
  const steps = plain.length + SWUNG_VALUES.length;
  const weighed: Weighed[] = plain.map((candidate, i) => {
    progress?.(i / steps);
    return weigh(candidate, bars, ppq, chords);
  });
  SWUNG_VALUES.forEach((text, i) => {
    progress?.((plain.length + i) / steps);
    const swung = bestSwing(text, bars, ppq, chords);
    if (swung) weighed.push(swung);
  });
  const ranked = withoutTwins(
    weighed.sort((a, b) => a.bits - b.bits),
    ppq,
    bars,
  );
  const told = ranked.slice(0, TOLD);
  const fitOf = (w: Weighed) => ({
    grid: w.grid,
    text: formatGrid(w.grid),
    bits: -w.bits / chords,
    ...measure(w, place, time),
    lagMs: w.lag,
  });
  const others = withOtherLags([...told, ...told.map((w) => otherLag(w, bars, ppq))]);
  return suggestion(
    told.map(fitOf),
    chords,
    ranked.map((w) => w.bits),
    others.map((w) => ({ fit: fitOf(w), behind: w.bits - ranked[0].bits })),
  );
}

/**
 * A suggestion with its reasons.
 * @param bits of the ranked in all, ascending
 * @param others the best under other lags
 */
export function suggestion(
  fits: readonly Omit<Fit, 'reason'>[],
  chords: number,
  bits: readonly number[],
  others: readonly { readonly fit: Omit<Fit, 'reason'>; readonly behind: number }[],
): Suggestion {
  const ahead = bits.length > 1 ? bits[1] - bits[0] : Infinity;
  const { missMs } = fits[0];
  const told = (fit: Omit<Fit, 'reason'>) => ({ ...fit, reason: reasonFor({ ...fit, missMs }, fits[0], 1, chords) });
  return {
    chords,
    fits: fits.map((fit, i) => ({ ...fit, reason: reasonFor(fit, fits[0], i, chords) })),
    sure: chords >= ENOUGH && ahead >= CLEAR_BITS,
    readings: others.map(({ fit, behind }) => ({ fit: told(fit), behind })),
  };
}

/** Of some explanations the best of each other lag than the best one's, as far as they are near to it; best first. */
function withOtherLags<W extends { readonly bits: number; readonly lag: number }>(all: readonly W[]): W[] {
  const [best, ...rest] = [...all].sort((a, b) => a.bits - b.bits);
  const lags = [best.lag];
  return rest
    .filter(({ bits, lag }) => {
      if (bits - best.bits > NEAR_BITS || lags.some((l) => Math.abs(l - lag) <= APART)) return false;
      lags.push(lag);
      return true;
    })
    .slice(0, MOST_READINGS);
}

/** The same grid under the best lag that is another one. */
function otherLag(w: Weighed, bars: readonly BarHistogram[], ppq: number): Weighed {
  const lines = linesInBars(w.grid, bars, ppq);
  // What the grid costs beside its description is the same.
  const extra = w.bits - codeLength(bars, lines, w.lag);
  let best = { ...w, bits: Infinity };
  const look = (lag: number) => {
    if (Math.abs(lag) > MOST_LAG || Math.abs(lag - w.lag) <= APART) return;
    const bits = codeLength(bars, lines, lag) + extra;
    if (bits < best.bits) best = { ...w, bits, lag };
  };
  for (let lag = -MOST_LAG; lag <= MOST_LAG; lag += 5) look(lag);
  const around = best.lag;
  for (let lag = around - 4; lag <= around + 4; lag++) look(lag);
  return best;
}

/** The best lag for a candidate: by 5 ms over ±70 ms, then by 1 ms around the best. */
function weigh(candidate: Candidate, bars: readonly BarHistogram[], ppq: number, chords: number): Weighed {
  const lines = linesInBars(candidate.grid, bars, ppq);
  let best = { bits: Infinity, lag: 0 };
  const look = (lag: number) => {
    const bits = codeLength(bars, lines, lag);
    if (bits < best.bits) best = { bits, lag };
  };
  const coarse: { bits: number; lag: number }[] = [];
  for (let lag = -MOST_LAG; lag <= MOST_LAG; lag += 5) {
    const bits = codeLength(bars, lines, lag);
    coarse.push({ bits, lag });
    if (bits < best.bits) best = { bits, lag };
  }
  // A lag and that lag plus a gap explain equally well; steps of 5 ms favour one of them by chance.
  const close = best.bits + CLOSE_BITS + CLOSE_BITS_A_CHORD * chords;
  const smaller = coarse.filter((c) => c.bits <= close).sort((a, b) => Math.abs(a.lag) - Math.abs(b.lag))[0];
  for (const around of new Set([best.lag, smaller.lag])) {
    for (let lag = around - 4; lag <= around + 4; lag++) if (lag !== around) look(lag);
  }
  return { grid: candidate.grid, bits: best.bits + candidate.penalty, lag: best.lag };
}

/** The best swing of a note value; null where it is as good as straight. */
function bestSwing(text: string, bars: readonly BarHistogram[], ppq: number, chords: number): Weighed | null {
  const straight = parseGrid(text);
  const most = straight.mix ? MIXED_SWING_MAX : SWING_MAX;
  const at = (swing: number) => ({ ...straight, swing: Math.round(swing * 1000) / 1000 });
  let best: Weighed = { grid: straight, bits: Infinity, lag: 0 };
  const look = (swing: number, lags: readonly number[]) => {
    if (swing < 0.5 || swing > most) return;
    const lines = linesInBars(at(swing), bars, ppq);
    for (const lag of lags) {
      const bits = codeLength(bars, lines, lag);
      if (bits < best.bits) best = { grid: at(swing), bits, lag };
    }
  };
  const wide = Array.from({ length: 15 }, (_, i) => (i - 7) * 10);
  for (const swing of SWINGS) look(swing, wide);
  for (const [reach, step] of [
    [0.02, 0.01],
    [0.005, 0.0025],
  ]) {
    const { swing } = best.grid;
    const { lag } = best;
    const near = [-4, -2, -1, 0, 1, 2, 4].map((d) => lag + d);
    for (let d = -reach; d <= reach + 1e-9; d += step) look(swing + d, near);
  }
  // Within three points of 50 it is straight playing.
  if (Math.abs(best.grid.swing - 0.5) < 0.03) return null;
  return { ...best, bits: best.bits + penaltyOf(best.grid, chords) };
}

/** Drops grids whose lines in all these bars are those of a better one. */
function withoutTwins(ranked: readonly Weighed[], ppq: number, bars: readonly BarHistogram[]): Weighed[] {
  const seen = new Set<string>();
  return ranked.filter(({ grid: g }) => {
    const key = linesInBars(g, bars, ppq)
      .map(({ ms }) => [...ms].map((l) => l.toFixed(1)).join())
      .join('|');
    return !seen.has(key) && seen.add(key);
  });
}

/** Typical miss and merges of a grid under its lag. */
function measure({ grid: g, lag }: Weighed, place: Float64Array, time: SongTime): { missMs: number; merges: number } {
  const lines = gridLines(g, time);
  const { tempo } = time;
  let merges = 0;
  let last = -1;
  const misses = place.map((tick) => {
    const t = tempo.shift(tick, -lag);
    const line = lines.nearest(t);
    if (line === last) merges++;
    last = line;
    return Math.abs(tempo.between(line, t));
  });
  return { missMs: median(misses), merges };
}

/** How far apart a grid's closest lines are in the bar at a tick, in ms: a lag is only known up to such a gap. */
export function smallestGapMs(g: Grid, time: SongTime, tick = 0): number {
  const piece = time.meter.pieceAt(tick);
  const { lines, period } = barPattern(g, piece.barTicks, time.meter.ppq);
  const gaps = [...lines].map((line, i) => (lines[i + 1] ?? period + lines[0]) - line);
  return time.tempo.between(tick, tick + gaps.reduce((least, gap) => Math.min(least, gap)));
}
