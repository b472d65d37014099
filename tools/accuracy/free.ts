import { findBeats, type BeatHints, type Onset } from '@early-sparrow/core/beats';
import { normalQuantile } from '@early-sparrow/core/maths';
import { stream } from './perform';

/** A take without a click whose beats are known. */
export interface FreeTake {
  readonly onsets: readonly Onset[];
  readonly beats: readonly number[];
  readonly bpm: number;
}

/** Free playing: the tempo walks and bends within about ±20 %, rhythms of eighths, sixteenths and triplets. */
export function freeTake(seed: number): FreeTake {
  const random = stream(seed, 9);
  const noise = stream(seed, 10);
  const bpm = 60 + random() * 100;
  const count = 60 + Math.floor(random() * 100);
  const jitter = 5 + random() * 15;
  const phrase = 12 + random() * 36;
  const bend = random() * 0.14;
  const kinds = [[0], [0, 0.5], [0, 0.25, 0.5, 0.75], [0, 1 / 3, 2 / 3], [0, 0.5, 0.75], [0.5], []];
  const chances = [0.3, 0.3, 0.14, random() < 0.3 ? 0.12 : 0, 0.1, 0.05, 0.04];
  const all = chances.reduce((a, b) => a + b, 0);
  const pattern = Array.from({ length: 8 }, () => pick(random() * all, chances));
  const beats: number[] = [];
  const onsets: Onset[] = [];
  let at = 400 + random() * 1500;
  let walk = 0;
  for (let k = 0; k < count; k++) {
    walk = 0.97 * walk + 0.012 * normalQuantile(noise());
    const period = (60_000 / bpm) * Math.exp(walk + bend * Math.sin((2 * Math.PI * k) / phrase));
    beats.push(at);
    const kind = random() < 0.25 ? pick(random() * all, chances) : pattern[k % 8];
    for (const place of kinds[kind]) {
      const strong = place === 0 && k % 4 === 0;
      onsets.push({
        ms: at + place * period + jitter * normalQuantile(noise()),
        notes: strong && random() < 0.7 ? 3 : 1,
        velocity: strong ? 95 : 70 + Math.floor(random() * 15),
        pitch: strong ? 40 : 62,
      });
    }
    at += period;
  }
  return { onsets: onsets.sort((a, b) => a.ms - b.ms), beats, bpm };
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

/** Mean F without a hint, and when tempo octave and one beat are told. */
export function scoreFree(runs: number, seed: number): { alone: number; hinted: number; worst: string[] } {
  let [alone, hinted] = [0, 0];
  const worst: string[] = [];
  for (let i = 0; i < runs; i++) {
    const take = freeTake(seed + i);
    // Beats before the first note and after the last are nobody's.
    const { onsets } = take;
    const inside = (b: number) => b >= onsets[0].ms - 100 && b <= onsets[onsets.length - 1].ms + 100;
    const truth = take.beats.filter(inside);
    const f = (hints: BeatHints) => beatF([...findBeats(onsets, hints)].filter(inside), truth);
    const [a, h] = [f({}), f({ low: take.bpm * 0.7, high: take.bpm * 1.42, beats: [truth[4]] })];
    alone += a;
    hinted += h;
    if (h < 0.9) worst.push(`${seed + i}: ${take.bpm.toFixed(0)} BPM, ${a.toFixed(2)} ${h.toFixed(2)}`);
  }
  return { alone: alone / runs, hinted: hinted / runs, worst };
}
