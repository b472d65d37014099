import type { Progress } from '../follow';
import { median } from '../maths';
import type { Ms } from '../time';
import { AGAINST, AGAINST_CUES, FEELS, swungPlaces, TILT, type Feel, type Places } from './feel';
import type { Onset } from './onsets';
import { LEVELS, salienceOf } from '../insight';

/** What is known of the beats beforehand. */
export interface BeatHints {
  /** Slowest and fastest tempo, in beats a minute. */
  readonly low?: number;
  readonly high?: number;
  /** Places where a beat is, in ms; left aside where no beats go through all of them. */
  readonly beats?: readonly Ms[];
}

const { exp, log, sqrt, PI } = Math;

/** Time is looked at in frames of so many ms. */
const FRAME: Ms = 10;
/** Periods a factor apart. */
const PERIOD_STEP = 1.03;
const SLOWEST = 40;
const FASTEST = 220;
/** Standard deviation of the logarithm of the tempo from beat to beat: it walks. */
const TEMPO_WALK = 0.06;
/** Periods that one beat may differ from the one before, in steps of the table. */
const MOST_STEPS = 4;
/** People tap most readily near this tempo; its weight is small beside what is played (Parncutt 1994, Music Perception 11:4). */
const READY_BPM = 105;
const READY_SPREAD = 0.5;
const READY_WEIGHT = 0.25;
/** Unevenness of a player around the beat. */
const JITTER: Ms = 22;
const ANYWHERE = 0.12;
/** Beats that are known may be so far off. */
const HINT_WITHIN: Ms = 60;
const NEAR_HINT = HINT_WITHIN / FRAME;
/** Beats go on from the first onset back by so much. */
const BEFORE: Ms = 60_000 / SLOWEST;

/** Each feel straight, and eighths well swung: straight ones of another tempo explain these nearly as well. */
const LOOKED_FOR: readonly { readonly feel: Feel; readonly swing: number }[] = [
  ...(Object.keys(FEELS) as Feel[]).map((feel) => ({ feel, swing: 0 })),
  { feel: 'eighths', swing: 0.11 },
];

/** Beats that one explanation finds: one feel, with or without what stands out. */
export interface FoundPath {
  /** ms, ascending. */
  readonly path: Float64Array;
  readonly feel: Feel;
  /** Its log likelihood in the search, in nats, with what speaks against its explanation. */
  readonly nats: number;
}

/**
 * Searches the beats of free playing: the sequence that explains the onsets best, when the logarithm of the tempo walks
 * from beat to beat and notes start on a beat more often than at the places between; by dynamic programming over time
 * and period. (Log-tempo as a random walk: Cemgil & Kappen 2003, JAIR 18; the dynamic programming after Ellis 2007,
 * Journal of New Music Research 36:1.) Playing in twos, in threes and in both are explanations of their own, with and
 * without low, loud and full notes being likelier on the beat.
 * @param levels how much each onset stands out
 * @returns one sequence for each explanation; none where there are fewer than two onsets
 */
export function searchBeats(
  onsets: readonly Onset[],
  levels: Uint8Array,
  hints: BeatHints = {},
  progress?: Progress,
): FoundPath[] {
  if (onsets.length < 2) return [];
  // Where nothing stands out there is nothing to tilt.
  const tilts = levels.every((l) => l === levels[0]) ? [0] : [0, TILT];
  const ways = LOOKED_FOR.flatMap((way) => tilts.map((tilt) => ({ ...way, tilt })));
  return ways.map(({ feel, swing, tilt }, k) => {
    const told = (share: number) => progress?.((k + share) / ways.length);
    const { path, nats } = explain(onsets, levels, tableFor(hints, feel, swing, tilt), hints, told);
    return { path, feel, nats: nats - AGAINST[feel] - (tilt > 0 ? AGAINST_CUES : 0) };
  });
}

/** The tempo of most beats, in beats a minute; NaN for fewer than two. */
export function typicalBpm(beats: Float64Array): number {
  return 60_000 / median(beats.subarray(1).map((b, i) => b - beats[i]));
}

function explain(
  onsets: readonly Onset[],
  levels: Uint8Array,
  table: readonly Period[],
  hints: BeatHints,
  progress: Progress,
): { path: Float64Array; nats: number } {
  const periods = table.length;
  const start = onsets[0].ms - BEFORE;
  const frameOf = (ms: Ms) => Math.round((ms - start) / FRAME);
  const at = Int32Array.from(onsets, (o) => frameOf(o.ms));
  const weight = Float64Array.from(onsets, (o) => 1 + 0.3 * Math.log2(o.notes));
  const hinted = (hints.beats ?? []).map(frameOf).sort((a, b) => a - b);
  const lastOnset = at[at.length - 1];
  const longest = table[periods - 1].frames;
  const count = lastOnset + longest + 1;
  const free = unexplained(at, weight);
  const upTo = onsetsUpTo(at, count);
  const lastFirst = at[0] + longest;
  /** What is not explained before a beat at this frame, should it be the first. */
  const asFirst = (frame: number) => (frame <= lastFirst ? free[upTo[frame]] : -Infinity);

  const best = new Float32Array(count * periods);
  for (let p = 0; p < periods; p++) {
    const { frames, ready } = table[p];
    for (let t = 0; t < frames; t++) best[t * periods + p] = free[upTo[t]] + ready;
  }
  // All that leads to a beat is known when its frame is reached; from there to where the next one would be.
  const row = new Float64Array(periods + 2 * MOST_STEPS).fill(-Infinity);
  let hint = 0;
  for (let before = 0; before + table[0].frames < count; before++) {
    if ((before & 1023) === 0) progress(before / count);
    for (let p = 0; p < periods; p++) row[p + MOST_STEPS] = best[before * periods + p];
    const first = asFirst(before);
    const firstIn = upTo[before];
    while (hint < hinted.length && hinted[hint] <= before + NEAR_HINT) hint++;
    const nextHint = hint < hinted.length ? hinted[hint] : Infinity;
    for (let p = 0; p < periods; p++) {
      const { frames, shape, ready } = table[p];
      const t = before + frames;
      if (t >= count) break;
      let seen = ready;
      for (let i = upTo[t] - 1; i >= firstIn; i--) seen += weight[i] * shape[levels[i] * (frames + 1) + at[i] - before];
      // A known beat lies between the two, and is neither.
      if (nextHint < t - NEAR_HINT) seen -= HINT_COST;
      best[t * periods + p] = Math.max(first, likeliestBefore(row, p + MOST_STEPS)) + seen;
    }
  }
  const { frames, nats } = trace(best, asFirst, table, count, lastOnset);
  return { path: Float64Array.from(frames, (f) => start + f * FRAME), nats };
}

/**
 * The likeliest way to a beat, whose period is at `q`, with what it costs to come there from the periods beside it.
 * Written out for {@link MOST_STEPS}, and compared in pairs: it is asked for millions of times.
 */
function likeliestBefore(row: Float64Array, q: number): number {
  const one = Math.max(row[q - 1], row[q + 1]) - WALK_1;
  const two = Math.max(row[q - 2], row[q + 2]) - WALK_2;
  const three = Math.max(row[q - 3], row[q + 3]) - WALK_3;
  const four = Math.max(row[q - 4], row[q + 4]) - WALK_4;
  return Math.max(row[q], Math.max(Math.max(one, two), Math.max(three, four)));
}

/** A beat that is known and passed over. */
const HINT_COST = 1000;
/** From so many steps up or down. */
const WALK_COST = Float64Array.from(
  { length: MOST_STEPS + 1 },
  (_, k) => (k * log(PERIOD_STEP)) ** 2 / (2 * TEMPO_WALK * TEMPO_WALK),
);

const [, WALK_1, WALK_2, WALK_3, WALK_4] = WALK_COST;

interface Period {
  readonly frames: number;
  /** Log density of an onset at each frame of the beat, against one anywhere; level by level of salience. */
  readonly shape: Float64Array;
  readonly ready: number;
}

/** Tables of the whole range of tempi, which are asked for again with every take. */
const tables = new Map<string, readonly Period[]>();

function tableFor(hints: BeatHints, feel: Feel, swing: number, tilt: number): readonly Period[] {
  const places = swungPlaces(feel, swing);
  if (hints.low !== undefined || hints.high !== undefined) return tableOf(hints, places, tilt);
  const key = `${feel} ${swing} ${tilt}`;
  let table = tables.get(key);
  if (!table) tables.set(key, (table = tableOf({}, places, tilt)));
  return table;
}

function tableOf({ low = SLOWEST, high = FASTEST }: BeatHints, places: Places, tilt: number): Period[] {
  const table: Period[] = [];
  for (let ms = 60_000 / high; ms <= 60_000 / low + 1 || table.length === 0; ms *= PERIOD_STEP) {
    const frames = Math.max(2, Math.round(ms / FRAME));
    const shape = shapeOf(frames, places, tilt);
    const octaves = Math.log2(60_000 / (frames * FRAME) / READY_BPM);
    table.push({ frames, shape, ready: -READY_WEIGHT * (octaves / READY_SPREAD) ** 2 });
  }
  return table;
}

/**
 * Log density of an onset at each frame of a beat, level by level of salience: one that stands out is likelier on the
 * beat by a power of e; all shares together stay the same.
 */
function shapeOf(frames: number, places: Places, tilt: number): Float64Array {
  const period = frames * FRAME;
  const onBeat = places[0][1];
  const all = places.reduce((sum, [, share]) => sum + share, 0);
  const shape = new Float64Array(LEVELS * (frames + 1)).fill(ANYWHERE);
  // How near each frame is to a place says nothing of the level, and is slow to work out.
  const near = new Float64Array(frames + 1);
  places.forEach(([place, share], k) => {
    for (let f = 0; f <= frames; f++) {
      const away = Math.abs(f / frames - place);
      const z = (Math.min(away, 1 - away) * period) / JITTER;
      near[f] = (period * exp(-0.5 * z * z)) / (JITTER * sqrt(2 * PI));
    }
    for (let level = 0; level < LEVELS; level++) {
      const likelier = exp(tilt * salienceOf(level));
      const tilted = (share * (k === 0 ? likelier : 1) * all) / (all + onBeat * (likelier - 1));
      for (let f = 0; f <= frames; f++) shape[level * (frames + 1) + f] += tilted * near[f];
    }
  });
  return shape.map(log);
}

/** What the first `i` onsets cost when no beat explains them. */
function unexplained(at: Int32Array, weight: Float64Array): Float64Array {
  const sums = new Float64Array(at.length + 1);
  for (let i = 0; i < at.length; i++) sums[i + 1] = sums[i] + weight[i] * log(ANYWHERE);
  return sums;
}

/** How many onsets there are up to each frame, that one included. */
function onsetsUpTo(at: Int32Array, frames: number): Int32Array {
  const counts = new Int32Array(frames);
  let i = 0;
  for (let t = 0; t < frames; t++) {
    while (i < at.length && at[i] <= t) i++;
    counts[t] = i;
  }
  return counts;
}

/** Whether a known beat is passed over by a sequence of beats. */
export function passesHint(path: Float64Array, hints: readonly Ms[]): boolean {
  return hints.some((h) => path.some((b, i) => i > 0 && path[i - 1] + HINT_WITHIN < h && h < b - HINT_WITHIN));
}

/** The likeliest sequence, back from its last beat: the first one at or after the last onset. */
function trace(
  best: Float32Array,
  asFirst: (frame: number) => number,
  table: readonly Period[],
  count: number,
  last: number,
): { frames: number[]; nats: number } {
  const periods = table.length;
  let state = -1;
  for (let t = last; t < count; t++) {
    for (let p = 0; p < periods; p++) {
      if (t - table[p].frames >= last) continue;
      const s = t * periods + p;
      if (state < 0 || best[s] > best[state]) state = s;
    }
  }
  const nats = best[state];
  const frames: number[] = [];
  let t = Math.floor(state / periods);
  let p = state % periods;
  while (t >= 0) {
    frames.push(t);
    t -= table[p].frames;
    if (t < 0) break;
    const before = periodBefore(best.subarray(t * periods, (t + 1) * periods), p, asFirst(t));
    if (before < 0) {
      frames.push(t);
      break;
    }
    p = before;
  }
  return { frames: frames.reverse(), nats };
}

/** The period that leads to a beat, of those where it begins; −1 where it begins the first one. */
function periodBefore(row: Float32Array, p: number, first: number): number {
  let [top, chosen] = [first, -1];
  for (let q = Math.max(0, p - MOST_STEPS); q <= Math.min(row.length - 1, p + MOST_STEPS); q++) {
    const value = row[q] - WALK_COST[Math.abs(q - p)];
    if (value > top) [top, chosen] = [value, q];
  }
  return chosen;
}

/** Onsets this near a beat are it. */
export const ON_BEAT: Ms = 55;

/** Beats where they were played; those that were not, between their neighbours as they were found. */
export function settleOn(beats: Float64Array, onsets: readonly Onset[]): Float64Array {
  const moves = new Float64Array(beats.length).fill(NaN);
  let i = 0;
  beats.forEach((beat, k) => {
    while (i < onsets.length && onsets[i].ms < beat - ON_BEAT) i++;
    let [sum, total] = [0, 0];
    for (let j = i; j < onsets.length && onsets[j].ms <= beat + ON_BEAT; j++) {
      const away = onsets[j].ms - beat;
      const w = onsets[j].notes * exp(-0.5 * (away / JITTER) ** 2);
      sum += w * away;
      total += w;
    }
    if (total > 0) moves[k] = sum / total;
  });
  const known = [...moves.keys()].filter((k) => !Number.isNaN(moves[k]));
  return beats.map((beat, k) => {
    if (!Number.isNaN(moves[k])) return beat + moves[k];
    const after = known.find((j) => j > k);
    const before = known.findLast((j) => j < k);
    if (before === undefined || after === undefined) return beat + (moves[before ?? after ?? 0] || 0);
    return beat + moves[before] + ((moves[after] - moves[before]) * (k - before)) / (after - before);
  });
}
