import { beatReadings, findBeats, type BeatHints, type Onset } from '@early-sparrow/core/beats';
import { normalQuantile } from '@early-sparrow/core/maths';
import { stream } from './perform';

/** A take without a click whose beats are known. */
export interface FreeTake {
  readonly onsets: readonly Onset[];
  readonly beats: readonly number[];
  readonly bpm: number;
}

/** What is played in each beat, and how often. */
export const FREE_KINDS = [
  'mixed',
  'plain',
  'sixteenths',
  'sparse',
  'triplets',
  'syncopated',
  'swung eighths',
  'swung sixteenths',
] as const;
export type FreeKind = (typeof FREE_KINDS)[number];

const RHYTHMS: readonly (readonly number[])[] = [
  [0],
  [0, 0.5],
  [0, 0.25, 0.5, 0.75],
  [0, 1 / 3, 2 / 3],
  [0, 0.5, 0.75],
  [0.5],
  [],
  [0, 2 / 3],
  [0.25, 0.75],
];

const CHANCES: Record<FreeKind, readonly number[]> = {
  mixed: [0.3, 0.3, 0.14, 0.04, 0.1, 0.05, 0.04, 0, 0],
  plain: [0.4, 0.45, 0, 0, 0.1, 0, 0.05, 0, 0],
  sixteenths: [0.1, 0.15, 0.45, 0, 0.25, 0, 0.02, 0, 0.03],
  sparse: [0.5, 0.1, 0, 0, 0, 0.05, 0.35, 0, 0],
  triplets: [0.15, 0, 0, 0.5, 0, 0, 0.05, 0.3, 0],
  syncopated: [0.1, 0.15, 0, 0, 0.1, 0.4, 0.1, 0, 0.15],
  'swung eighths': [0.3, 0.5, 0, 0, 0, 0.1, 0.05, 0, 0],
  'swung sixteenths': [0.1, 0.15, 0.45, 0, 0.25, 0, 0.02, 0, 0.03],
};

/**
 * Free playing: the tempo walks and bends within about ±20 %.
 * @param cues whether beats are told by low, loud notes and chords; else all notes are alike
 */
export function freeTake(seed: number, kind: FreeKind = 'mixed', cues = true): FreeTake {
  const random = stream(seed, 9);
  const noise = stream(seed, 10);
  const bpm = 60 + random() * 100;
  const count = 60 + Math.floor(random() * 100);
  const jitter = 5 + random() * 15;
  const phrase = 12 + random() * 36;
  const bend = random() * 0.14;
  const chances = CHANCES[kind];
  const all = chances.reduce((a, b) => a + b, 0);
  const pattern = Array.from({ length: 8 }, () => pick(random() * all, chances));
  const swing = 0.55 + 0.12 * stream(seed, 11)();
  const beats: number[] = [];
  const onsets: Onset[] = [];
  let at = 400 + random() * 1500;
  let walk = 0;
  for (let k = 0; k < count; k++) {
    walk = 0.97 * walk + 0.012 * normalQuantile(noise());
    const period = (60_000 / bpm) * Math.exp(walk + bend * Math.sin((2 * Math.PI * k) / phrase));
    beats.push(at);
    const rhythm = RHYTHMS[random() < 0.25 ? pick(random() * all, chances) : pattern[k % 8]];
    for (const place of rhythm) {
      const strong = cues && place === 0 && (k % 2 === 0 || random() < 0.5);
      onsets.push({
        ms: at + swung(place, kind, swing) * period + jitter * normalQuantile(noise()),
        notes: strong && random() < 0.6 ? 3 : 1,
        velocity: Math.round((strong ? 88 : 72) + 8 * normalQuantile(noise())),
        pitch: Math.round((strong ? 44 : 62) + (cues ? 6 : 9) * normalQuantile(noise())),
      });
    }
    at += period;
  }
  return { onsets: onsets.sort((a, b) => a.ms - b.ms), beats, bpm };
}

/** Where a place of the beat is played. */
function swung(place: number, kind: FreeKind, swing: number): number {
  if (kind === 'swung eighths') return place === 0.5 ? swing : place;
  if (kind === 'swung sixteenths' && (place === 0.25 || place === 0.75)) return place - 0.25 + swing / 2;
  return place;
}

function pick(at: number, chances: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < chances.length; i++) {
    sum += chances[i];
    if (at < sum) return i;
  }
  return 0;
}

/** Share of beats found within 70 ms, and of those found that are beats: Dixon 2007, JNMR 36:1; Davies et al. 2009. */
export function beatF(found: ArrayLike<number>, truth: readonly number[], within = 70): number {
  let hits = 0;
  let i = 0;
  const used = new Set<number>();
  for (const beat of truth) {
    while (i < found.length && found[i] < beat - within) i++;
    for (let j = i; j < found.length && found[j] <= beat + within; j++) {
      if (used.has(j)) continue;
      used.add(j);
      hits++;
      break;
    }
  }
  return (2 * hits) / (found.length + truth.length);
}

export interface FreeScore {
  readonly alone: number;
  /** Not a number where it was not asked for. */
  readonly hinted: number;
  /** The best of the readings that are offered. */
  readonly offered: number;
  readonly worst: readonly string[];
}

/**
 * Mean F without a hint, and when tempo octave and one beat are told.
 * @param withHint whether the latter is asked for: a search more a take
 */
export function scoreFree(
  runs: number,
  seed: number,
  kind: FreeKind = 'mixed',
  cues = true,
  withHint = true,
): FreeScore {
  let [alone, hinted, offered] = [0, 0, 0];
  const worst: string[] = [];
  for (let i = 0; i < runs; i++) {
    const take = freeTake(seed + i, kind, cues);
    // Beats before the first note and after the last are nobody's.
    const { onsets } = take;
    const inside = (b: number) => b >= onsets[0].ms - 100 && b <= onsets[onsets.length - 1].ms + 100;
    const truth = take.beats.filter(inside);
    const f = (beats: Float64Array) => beatF([...beats].filter(inside), truth);
    const hints: BeatHints = { low: take.bpm * 0.7, high: take.bpm * 1.42, beats: [truth[4]] };
    const readings = beatReadings(onsets).map(({ beats }) => f(beats));
    const [a, h] = [readings[0], withHint ? f(findBeats(onsets, hints)) : NaN];
    alone += a;
    hinted += h;
    offered += Math.max(...readings);
    if (a < 0.9 || Math.max(...readings) < 0.9)
      worst.push(
        `${seed + i}: ${kind} ${take.bpm.toFixed(0)} BPM, ${a.toFixed(2)} ${h.toFixed(2)} ${Math.max(...readings).toFixed(2)}`,
      );
  }
  return { alone: alone / runs, hinted: hinted / runs, offered: offered / runs, worst };
}
