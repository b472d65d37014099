import { barPattern, canonicalGrid, formatGrid, isSwung, parseGrid, type Grid } from '../grid';
import type { BarHistogram } from './histogram';
import { lineStrengths } from './strength';

/** A grid that the suggestion weighs. */
export interface Candidate {
  readonly grid: Grid;
  /** Bits that its kind must earn back: plain kinds cost less than odd ones. */
  readonly penalty: number;
}

/** Bits for having a parameter, beside those for its value. */
export const PARAMETER_BITS = 4;

const STRAIGHT = ['1/1', '1/2', '1/4', '1/8', '1/16', '1/32', '1/64'];
const TRIPLETS = ['1/2T', '1/4T', '1/8T', '1/16T', '1/32T'];
const DOTTED = ['1/2.', '1/4.', '1/8.', '1/16.'];
const TUPLETS = ['1/4 5:4', '1/8 5:4', '1/16 5:4', '1/32 5:4', '1/4 7:4', '1/8 7:4', '1/16 7:4', '1/8 9:8', '1/16 9:8'];
const MIXES = [
  '1/4+1/4T',
  '1/4+1/8T',
  '1/8+1/4T',
  '1/8+1/8T',
  '1/8+1/16T',
  '1/16+1/4T',
  '1/16+1/8T',
  '1/16+1/16T',
  '1/32+1/8T',
  '1/32+1/16T',
  '1/4+1/8.',
  '1/8+1/16 5:4',
  '1/16+1/16 5:4',
];

/** Values of which a swung form is searched for. */
export const SWUNG_VALUES = ['1/4', '1/8', '1/16', '1/32', '1/8+1/16', '1/16+1/32'];
/**
 * Swings that are looked at first. None below one half: early off-beats with one lag are late ones with another,
 * and late ones are what people play.
 */
export const SWINGS = [0.54, 0.57, 0.6, 0.63, 0.66, 0.69, 0.72, 0.75, 0.78];

/** All grids but the swung ones, which are searched for. */
export function plainCandidates(): Candidate[] {
  const of = (texts: string[], penalty: number): Candidate[] =>
    texts.map((text) => ({ grid: canonicalGrid(parseGrid(text)), penalty }));
  const all = [
    ...of(STRAIGHT, 0),
    ...of(TRIPLETS, 1),
    ...of(DOTTED, 4),
    ...of(TUPLETS, 5),
    ...of(MIXES, PARAMETER_BITS),
  ];
  const seen = new Set<string>();
  return all.filter(({ grid }) => !seen.has(formatGrid(grid)) && seen.add(formatGrid(grid)));
}

/** Bits that a grid of any kind must earn back for `n` chords; for a mix or a swing, its parameter's too. */
export function penaltyOf(g: Grid, n: number): number {
  const kinds = (isSwung(g) ? 1 : 0) + (g.mix ? 1 : 0);
  if (kinds > 0) return kinds * PARAMETER_BITS + (isSwung(g) ? 0.5 * Math.log2(n) : 0);
  const known = plainCandidates().find((c) => formatGrid(c.grid) === formatGrid(canonicalGrid(g)));
  return known?.penalty ?? 5;
}

/** A grid's lines in a kind of bar. */
export interface BarLines {
  /** ms from the bar line, ascending. */
  readonly ms: Float64Array;
  readonly strength: Float64Array;
}

/** A grid's lines in each kind of bar. */
export function linesInBars(grid: Grid, bars: readonly BarHistogram[], ppq: number): BarLines[] {
  return bars.map((bar) => ({
    ms: barPattern(grid, bar.barTicks, ppq).lines.map((line) => (line / bar.barTicks) * bar.barMs),
    strength: lineStrengths(grid, bar.piece, ppq),
  }));
}
