import { median, middleInterval, type Interval } from '../maths';
import { tempoOf, type Song, type Track } from '../song';
import type { Ms } from '../time';
import { factsOf } from '../treatment';

/** What a track plays: its chords' onsets, ascending, and how far each lies from its line, less the track's lag; ms. */
export interface Onsets {
  readonly at: Float64Array;
  readonly away: Float64Array;
}

/** How two tracks lie to each other where both play. */
export interface Asynchrony {
  /** How much later than the second the first one plays, in ms: the median over all pairs. Early is negative. */
  readonly ms: Ms;
  /** 95 % interval of it. */
  readonly interval: Interval;
  /** Onsets that were meant together. */
  readonly pairs: number;
  /** How alike they wander, −1 to 1; null where one of them hardly does, or too little is played together. */
  readonly alike: number | null;
}

/** Onsets that are meant together are no further apart, in ms and as a share of the gap to a neighbour. */
const FURTHEST: Ms = 150;
const SHARE = 0.4;
/** Fewer pairs say nothing of how two tracks lie, and of how they wander. */
const FEWEST = 8;
const FEWEST_TO_WANDER = 32;
/** So many onsets are averaged to tell wandering from unevenness; it has to go so far, in ms. */
const AVERAGED = 9;
const LEAST_WANDER: Ms = 1.5;

/** The onsets of a track, as played or as it sounds now; muted parts are left out. */
export function onsetsOf(track: Track, song: Song, corrected: boolean): Onsets {
  const tempo = tempoOf(song);
  const all = track.parts
    .filter((part) => !part.muted)
    .flatMap((part) => {
      const { played, now, before, after } = factsOf(part, song).chords;
      const [ticks, away] = corrected ? [now, after] : [played, before];
      return Array.from(ticks, (tick, c) => ({ at: tempo.toMs(tick), away: away[c] }));
    })
    .sort((a, b) => a.at - b.at);
  const lag = median(all.map((o) => o.away));
  return { at: Float64Array.from(all, (o) => o.at), away: Float64Array.from(all, (o) => o.away - lag) };
}

/**
 * How two tracks lie to each other, after Rasch 1979 (Acustica 43:121): the asynchrony of onsets that are nominally
 * together. Paired is what is each other's nearest and closer than its neighbours are; first as it lies, then with the
 * median taken away, so that a large asynchrony does not decide by itself who is paired.
 * @returns null where they do not play together
 */
export function asynchrony(a: Onsets, b: Onsets): Asynchrony | null {
  let pairs = paired(a.at, b.at, 0);
  for (let round = 0; round < 2 && pairs.length >= FEWEST; round++) {
    pairs = paired(a.at, b.at, median(pairs.map(([i, j]) => a.at[i] - b.at[j])));
  }
  if (pairs.length < FEWEST) return null;
  const apart = Float64Array.from(pairs, ([i, j]) => a.at[i] - b.at[j]);
  const ms = median(apart);
  const alike = alikeness(
    pairs.map(([i]) => a.away[i]),
    pairs.map(([, j]) => b.away[j]),
  );
  return { ms, interval: middleInterval(apart, ms), pairs: pairs.length, alike };
}

type Pair = readonly [number, number];

/** Each other's nearest, with `shift` taken from the first. Ascending times in ms. */
function paired(a: Float64Array, b: Float64Array, shift: Ms): Pair[] {
  const found: Pair[] = [];
  let j = 0;
  for (let i = 0; i < a.length && b.length > 0; i++) {
    const at = a[i] - shift;
    while (j + 1 < b.length && Math.abs(b[j + 1] - at) <= Math.abs(b[j] - at)) j++;
    const away = Math.abs(b[j] - at);
    const before = i > 0 ? Math.abs(a[i - 1] - shift - b[j]) : Infinity;
    const after = i + 1 < a.length ? Math.abs(a[i + 1] - shift - b[j]) : Infinity;
    if (before <= away || after < away) continue;
    if (away <= Math.min(FURTHEST, SHARE * Math.min(gapAt(a, i), gapAt(b, j)))) found.push([i, j]);
  }
  return found;
}

function gapAt(times: Float64Array, i: number): Ms {
  const before = i > 0 ? times[i] - times[i - 1] : Infinity;
  const after = i + 1 < times.length ? times[i + 1] - times[i] : Infinity;
  return Math.min(before, after);
}

/** The correlation of two players' wandering: their offsets where they play together, evened out over a few. */
function alikeness(a: readonly number[], b: readonly number[]): number | null {
  if (a.length < FEWEST_TO_WANDER) return null;
  const [x, y] = [evened(a), evened(b)];
  const [mx, my] = [mean(x), mean(y)];
  let [xx, yy, xy] = [0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    xx += (x[i] - mx) ** 2;
    yy += (y[i] - my) ** 2;
    xy += (x[i] - mx) * (y[i] - my);
  }
  if (Math.min(xx, yy) / x.length < LEAST_WANDER ** 2) return null;
  return xy / Math.sqrt(xx * yy);
}

/** Medians of a few neighbours: what is wild does not count. */
function evened(values: readonly number[]): number[] {
  return Array.from({ length: values.length - AVERAGED + 1 }, (_, i) => median(values.slice(i, i + AVERAGED)));
}

function mean(values: readonly number[]): number {
  return values.reduce((sum, v) => sum + v, 0) / values.length;
}

/** Row by row: how the row's player lies to the column's; null for himself, and where they do not play together. */
export type Asynchronies = readonly (readonly (Asynchrony | null)[])[];

/** The tracks of a song that play something. */
export function playingTracks(song: Song): Track[] {
  return song.tracks.filter((t) => t.parts.some((p) => !p.muted && p.notes.length > 0));
}

/** How some players lie to each other, each against each other one. */
export function asynchronies(onsets: readonly Onsets[]): Asynchronies {
  const cells = onsets.map(() => onsets.map((): Asynchrony | null => null));
  for (let row = 0; row < onsets.length; row++) {
    for (let column = row + 1; column < onsets.length; column++) {
      const cell = asynchrony(onsets[row], onsets[column]);
      cells[row][column] = cell;
      cells[column][row] = cell && turned(cell);
    }
  }
  return cells;
}

/** The same, seen from the other track. */
function turned({ ms, interval: { low, high }, pairs, alike }: Asynchrony): Asynchrony {
  return { ms: 0 - ms, interval: { low: 0 - high, high: 0 - low }, pairs, alike };
}
