import type { Progress } from '../follow';
import { readBeats, typicalBpm, type BeatHints, type BeatReading } from './find-beats';
import type { Onset } from './onsets';

/** So many readings are offered. */
const OFFERED = 4;
/** What the beat may be instead: half, double, two thirds and one and a half times the tempo. */
const LEVELS = [1 / 2, 2, 2 / 3, 3 / 2] as const;
/** A level is looked for within this factor of its tempo. */
const AROUND = 1.12;
/** Tempi beyond these are not offered, in beats a minute. */
const SLOWEST = 30;
const FASTEST = 300;
/** Of two readings that share this much of their beats, the likelier is told. */
const SAME = 0.8;
/** Beats closer than this are one, in ms. */
const NEAR = 70;

/**
 * What the beats of free playing could be: the likeliest first, then what else explains it, and the likeliest at other
 * levels of the beat and on its off-beats.
 */
export function beatReadings(onsets: readonly Onset[], hints: BeatHints = {}, progress?: Progress): BeatReading[] {
  const found = readBeats(onsets, hints, (share) => progress?.(share / (LEVELS.length + 1)));
  if (found.length === 0) return [];
  const [best] = found;
  const bpm = typicalBpm(best.beats);
  const at = (level: number, k: number): BeatReading[] => {
    const [low, high] = [(bpm * level) / AROUND, bpm * level * AROUND];
    const wished = low >= (hints.low ?? SLOWEST) && high <= (hints.high ?? FASTEST);
    const told = (share: number) => progress?.((k + 1 + share) / (LEVELS.length + 1));
    return wished ? readBeats(onsets, { ...hints, low, high }, told).slice(0, 1) : [];
  };
  const [half, double, ...others] = LEVELS.map(at);
  const byNats = (a: BeatReading, b: BeatReading) => b.nats - a.nats;
  // Half or double is what is mistaken most: the likelier of them is offered first.
  const octaves = [...half, ...double].sort(byNats);
  const rest = [...found, ...others.flat(), offBeats(best)].sort(byNats);
  const told: BeatReading[] = [best];
  for (const reading of [...octaves.slice(0, 1), ...rest, ...octaves.slice(1)]) {
    if (told.length < OFFERED && told.every((t) => shared(t.beats, reading.beats) < SAME)) told.push(reading);
  }
  return told;
}

/** What is less likely than what was found by this, in nats, for want of a measure: off-beats are seldom the beat. */
const AGAINST_OFF_BEAT = 25;

/** The same beats half a beat later. */
function offBeats({ beats, feel, nats }: BeatReading): BeatReading {
  const moved = beats.slice(0, -1).map((b, i) => (b + beats[i + 1]) / 2);
  return { beats: moved, feel, offBeat: true, nats: nats - AGAINST_OFF_BEAT };
}

/** Beats that two readings have both, as a share of all. */
function shared(a: Float64Array, b: Float64Array): number {
  let hits = 0;
  let j = 0;
  for (const beat of a) {
    while (j < b.length && b[j] < beat - NEAR) j++;
    if (j < b.length && Math.abs(b[j] - beat) <= NEAR) hits++;
  }
  return (2 * hits) / (a.length + b.length);
}
