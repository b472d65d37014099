import { barPattern, formatGrid, gridLines, parseGrid, SWING_MAX, type Grid, type SongTime } from '../grid';
import { median } from '../maths';
import type { Progress } from '../follow';
import { linesInBars, PARAMETER_BITS, plainCandidates, SWINGS, SWUNG_VALUES, type Candidate } from './candidates';
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

export interface Suggestion {
  readonly chords: number;
  /** Best first. */
  readonly fits: readonly Fit[];
  /** Whether the first is clearly better than the second. */
  readonly sure: boolean;
}

/** Below this many chords nothing is sure. */
const ENOUGH = 16;
/** The best must be ahead by so many bits in all. */
const CLEAR_BITS = 6;
const MOST_LAG = 70;
/** So many of the best are told with all their figures. */
const TOLD = 12;

/** Lags in steps of 5 ms are as good as the best within this many bits: half a step costs so much. */
const CLOSE_BITS = 6;
const CLOSE_BITS_A_CHORD = 0.25;

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
  if (chords === 0) return { chords, fits: [], sure: false };
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
  const fits = ranked.slice(0, TOLD).map((w) => ({
    grid: w.grid,
    text: formatGrid(w.grid),
    bits: -w.bits / chords,
    ...measure(w, place, time),
    lagMs: w.lag,
  }));
  return suggestion(
    fits,
    chords,
    ranked.map((w) => w.bits),
  );
}

/** A suggestion with its reasons. @param bits of the ranked in all, ascending */
export function suggestion(fits: readonly Omit<Fit, 'reason'>[], chords: number, bits: readonly number[]): Suggestion {
  const ahead = bits.length > 1 ? bits[1] - bits[0] : Infinity;
  return {
    chords,
    fits: fits.map((fit, i) => ({ ...fit, reason: reasonFor(fit, fits[0], i, chords) })),
    sure: chords >= ENOUGH && ahead >= CLEAR_BITS,
  };
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
  const extra = candidate.penalty + (candidate.parameter ? 0.5 * Math.log2(chords) : 0);
  return { grid: candidate.grid, bits: best.bits + extra, lag: best.lag };
}

/** The best swing of a note value; null where it is as good as straight. */
function bestSwing(text: string, bars: readonly BarHistogram[], ppq: number, chords: number): Weighed | null {
  const straight = parseGrid(text);
  const at = (swing: number) => ({ ...straight, swing: Math.round(swing * 1000) / 1000 });
  let best: Weighed = { grid: straight, bits: Infinity, lag: 0 };
  const look = (swing: number, lags: readonly number[]) => {
    if (swing < 0.5 || swing > SWING_MAX) return;
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
  return { ...best, bits: best.bits + PARAMETER_BITS + 0.5 * Math.log2(chords) };
}

/** Drops grids whose lines in all these bars are those of a better one. */
function withoutTwins(ranked: readonly Weighed[], ppq: number, bars: readonly BarHistogram[]): Weighed[] {
  const seen = new Set<string>();
  return ranked.filter(({ grid: g }) => {
    const key = linesInBars(g, bars, ppq)
      .map((lines) => [...lines].map((l) => l.toFixed(1)).join())
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
