import { followAlong, followBeside, followLines, sampleBlocks, type Followed, type Progress } from '../follow';
import { barPattern, formatGrid, gridLines, isSwung, parseGrid, SWING_MAX, type Grid, type SongTime } from '../grid';
import { median } from '../maths';
import type { MeterPiece } from '../time';
import { penaltyOf } from './candidates';
import { adaptiveLength } from './code-length';
import { lineAt, lineStrengths } from './strength';
import { suggestGrids, suggestion, smallestGapMs, NEAR_BITS, type Fit, type Suggestion } from './suggest';

/** A suggestion for a player who wanders, and what was found of the wandering. */
export interface DriftSuggestion {
  readonly suggestion: Suggestion;
  /** Chords with the drift taken away but for the lag, in ticks: what is measured along the drift is measured on them. */
  readonly straight: Float64Array;
  /** The chords that were followed, in ticks: all, or blocks of a long take. */
  readonly place: Float64Array;
  /** Their lines and drift on the best grid. */
  readonly followed: Followed;
}

/** So many of the best by the steady ranking are tried as carriers of the drift. */
const CARRIERS = 3;
/** Below this many bits a chord no grid fits without its drift. */
const FITS_FROM = 0.6;
const PLAIN_CARRIERS = ['1/16', '1/8', '1/8T'];
/** So many are told. */
const TOLD = 12;
/** A wandering below this share of the smallest gap does not change which grid fits. */
const MATTERS = 0.12;
/** From this share of it on it is no unevenness any more, whatever single chords do. */
const PLAIN = 0.2;
/** Chords that are followed for ranking, and for the lag; they are taken in blocks from all over a longer take. */
const RANK_CHORDS = 500;
const LAG_CHORDS = 4000;
/** Spread and pull of a drift are fitted: each costs half the logarithm of the number of chords. */
const FITTED = 2;
/** Bits in all by which a grid is clearly better. */
const CLEARLY = 6;

/** How a player's time moves against the best grids; what the lag is measured by. */
export function followBest(place: Float64Array, g: Grid, time: SongTime, progress?: Progress): Followed {
  return followLines(place, gridLines(g, time), time, g, progress);
}

/**
 * Ranks grids by how short a description of the playing they give when the player's drift is followed. Null where
 * steady playing explains the best few as well: then the steady ranking stands.
 *
 * A drift smears the histogram that the steady ranking works on. So it is found against the best few grids first (a
 * neighbour of the right one carries it too) and taken away, the straightened take is ranked as usual, and the best of
 * all these are followed in the original take and weighed: the density of their offsets along the drift, which line
 * of the bar each chord is on, and half a logarithm for each fitted value.
 */
export function suggestUnderDrift(
  place: Float64Array,
  time: SongTime,
  steady: Suggestion,
  progress?: Progress,
): DriftSuggestion | null {
  const sample = sampleOf(place, RANK_CHORDS);
  const carriers = carriersOf(steady);
  const grids = new Map(steady.fits.map((f) => [f.text, f.grid]));
  const drifts: Float64Array[] = [];
  const carried: { readonly grid: Grid; readonly followed: Followed }[] = [];
  for (const [i, grid] of carriers.entries()) {
    const followed = followBest(sample, grid, time, (share) => progress?.(((i + share) / carriers.length) * 0.7));
    carried.push({ grid, followed });
    if (followed.wander <= MATTERS * smallestGapMs(grid, time, place[0])) continue;
    drifts.push(followed.drift);
    const straight = straighten(sample, followed, time);
    for (const fit of suggestGrids(straight, time).fits) grids.set(fit.text, fit.grid);
  }
  if (drifts.length === 0) return null;
  const all = [...grids.values()];
  const every = all.map((grid, i) => {
    progress?.(0.7 + (i / all.length) * 0.2);
    const followed = followAlong(sample, gridLines(grid, time), time, grid, drifts);
    return { grid, followed, bits: describe(sample, grid, followed, time) };
  });
  every.sort((a, b) => a.bits - b.bits);
  // Of one note value the best swing counts: the others are the same grid, not quite as well measured.
  const seen = new Set<string>();
  const weighed = every.filter(({ grid }) => {
    const key = formatGrid(isSwung(grid) ? { ...grid, swing: SWING_MAX } : grid);
    return !seen.has(key) && seen.add(key);
  });
  // What fits without a drift stays first unless another is clearly better with one.
  const plain = weighed.findIndex((w) => isSame(w.grid, steady.fits[0].grid));
  if (plain > 0 && weighed[plain].bits < weighed[0].bits + CLEARLY) weighed.unshift(...weighed.splice(plain, 1));
  const best = weighed[0];
  // Steady playing of another grid that is the shorter description is what was played.
  const steadyBits = -steady.fits[0].bits * sample.length;
  if (steadyBits < best.bits && !isSame(best.grid, steady.fits[0].grid)) return null;
  const whole = followedOf(place);
  // The same as quantize asks, so that both say the same; a short take was followed against its carriers as a whole.
  const known =
    whole === sample ? carried.find(({ grid: g }) => isSame(g, best.grid) && g.swing === best.grid.swing) : undefined;
  const followed = known?.followed ?? followBest(whole, best.grid, time, (p) => progress?.(0.9 + p * 0.1));
  const fits = weighed.slice(0, TOLD).map(({ grid, followed: f, bits }, rank): Omit<Fit, 'reason'> => ({
    grid,
    text: formatGrid(grid),
    bits: -bits / sample.length,
    ...along(f),
    lagMs: rank === 0 ? followed.lag : f.lag,
  }));
  const other = [-1, 1].map((by) => {
    const found = followBeside(best.followed, by, sample, gridLines(best.grid, time), time, best.grid);
    return { lag: found.lag, bits: describe(sample, best.grid, found, time) };
  });
  const readings = other
    .filter(({ bits }) => bits - best.bits <= NEAR_BITS)
    .sort((a, b) => a.bits - b.bits)
    .map(({ lag, bits }) => ({
      fit: { ...fits[0], lagMs: followed.lag + lag - best.followed.lag },
      behind: bits - best.bits,
    }));
  return {
    suggestion: suggestion(
      fits,
      place.length,
      weighed.map((w) => (w.bits * place.length) / sample.length),
      readings,
    ),
    straight: straighten(whole, followed, time),
    place: whole,
    followed,
  };
}

/** The same kind of lines; their swing may be measured otherwise. */
function isSame(a: Grid, b: Grid): boolean {
  return isSwung(a) === isSwung(b) && formatGrid({ ...a, swing: b.swing }) === formatGrid(b);
}

/** The best few; where none of them fits, plain grids, whose lines carry a drift that smears everything. */
function carriersOf({ fits }: Suggestion): Grid[] {
  const nothingFits = fits[0].bits < FITS_FROM;
  const texts = nothingFits ? [...PLAIN_CARRIERS, fits[0].text] : fits.slice(0, CARRIERS).map((f) => f.text);
  return [...new Set(texts)].map((text) => parseGrid(text));
}

/** Whether a take's lag is the middle of a drift; else the drift is a part of the player's unevenness. */
export function isDrift(followed: Followed, g: Grid, time: SongTime, tick: number): boolean {
  return followed.drifting || followed.wander > PLAIN * smallestGapMs(g, time, tick);
}

/** Length of a take's description by a grid whose lines are followed, less that by no grid, in bits. */
function describe(place: Float64Array, grid: Grid, { line, nats, stepMs, wander }: Followed, time: SongTime): number {
  const { meter, tempo } = time;
  const n = place.length;
  const bars = new Map<number, Bar>();
  line.forEach((l) => {
    const piece = meter.pieceAt(l);
    let bar = bars.get(piece.barTicks);
    if (!bar) bars.set(piece.barTicks, (bar = barOf(piece, grid, tempo.between(l, l + piece.barTicks), meter.ppq)));
    bar.counts[lineAt(bar.lines, l - meter.barStartAt(l + 0.5))]++;
    bar.chords++;
  });
  // The density of the offsets is by the step; here it is by the ms.
  let bits = -(nats - n * Math.log(stepMs)) * Math.LOG2E + 1 + penaltyOf(grid, n);
  if (wander > 0) bits += (FITTED / 2) * Math.log2(n);
  for (const { lines, strength, counts, chords, barMs } of bars.values()) {
    const evenly = chords * Math.log2(lines.length);
    bits += Math.min(evenly, adaptiveLength(counts, strength, chords)) - chords * Math.log2(barMs);
  }
  return bits;
}

/** How a grid's lines are used in one kind of bar. */
interface Bar {
  readonly lines: Float64Array;
  readonly strength: Float64Array;
  readonly counts: Float64Array;
  readonly barMs: number;
  chords: number;
}

function barOf(piece: MeterPiece, grid: Grid, barMs: number, ppq: number): Bar {
  const { lines } = barPattern(grid, piece.barTicks, ppq);
  const strength = lineStrengths(grid, piece, ppq);
  return { lines, strength, counts: new Float64Array(lines.length), barMs, chords: 0 };
}

/** Typical miss and merges along the drift. */
function along({ line, apart }: Followed): { missMs: number; merges: number } {
  return { missMs: median(apart.map(Math.abs)), merges: line.filter((l, i) => i > 0 && l === line[i - 1]).length };
}

/** A take without its drift; the lag stays. */
function straighten(place: Float64Array, { drift, lag }: Followed, { tempo }: SongTime): Float64Array {
  return place.map((t, i) => tempo.shift(t, lag - drift[i])).sort();
}

/** Of something for each chord that for those that are followed for the lag: of all, or of blocks of a long take. */
export function followedOf(each: Float64Array): Float64Array {
  return sampleOf(each, LAG_CHORDS);
}

/** Chords from all over a take, in blocks. */
function sampleOf(place: Float64Array, most: number): Float64Array {
  const blocks = sampleBlocks(place.length, most);
  return blocks.length === 1 ? place : Float64Array.from(blocks.flatMap(([from, to]) => [...place.subarray(from, to)]));
}
