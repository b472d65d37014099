import type { Progress } from '../follow';
import { salienceLevels, salienceOf } from '../insight';
import { firstAt, median } from '../maths';
import type { Ms } from '../time';
import { FEELS, TURNS, type Feel } from './feel';
import { ON_BEAT, passesHint, searchBeats, settleOn, typicalBpm, type BeatHints, type FoundPath } from './find-beats';
import type { Onset } from './onsets';
import { weigh, type Take } from './weigh';

/** So many readings are offered. */
const OFFERED = 4;
/** Half or double the tempo comes second unless it is this much less likely than the best, in nats. */
const OCTAVE_BEHIND = 60;
/** One of another tempo has a place unless it is this much less likely. */
const TEMPO_BEHIND = 30;
/** What the beat may be instead: half, double, two thirds and one and a half times the tempo. */
const LEVELS = [1 / 2, 2, 2 / 3, 3 / 2] as const;
/** A level is looked for within this factor of its tempo. */
const AROUND = 1.12;
/** Tempi beyond these are not offered, in beats a minute. */
const SLOWEST = 30;
const FASTEST = 300;
/** Of two readings that share this much of their beats, the likelier is told. */
const SAME = 0.8;
/** Beats closer than this are one. */
const NEAR: Ms = 70;

/** Where between two beats others may lie. */
const SHARES = [1 / 4, 1 / 3, 1 / 2, 2 / 3, 3 / 4] as const;
export type BeatShare = (typeof SHARES)[number];

/** Beats that explain a take, and how well. */
export interface BeatReading {
  /** ms, ascending. */
  readonly beats: Float64Array;
  readonly feel: Feel;
  /** They lie this share of a beat later than those of a likelier reading at the same tempo. */
  readonly later?: BeatShare;
  /** Log likelihood, in nats, with what speaks against it beforehand. */
  readonly nats: number;
}

/**
 * Finds the beats of free playing: the likeliest of the readings.
 * @returns times of the beats in ms, ascending; empty where there are fewer than two onsets
 */
export function findBeats(onsets: readonly Onset[], hints: BeatHints = {}, progress?: Progress): Float64Array {
  return beatReadings(onsets, hints, progress)[0]?.beats ?? new Float64Array(0);
}

/**
 * What the beats of free playing could be: the likeliest first, then what else explains it, at its level of the beat
 * and at others. Whatever the search finds in its own feel, and the same with another place of the beat as the beat,
 * is weighed by one measure.
 */
export function beatReadings(onsets: readonly Onset[], hints: BeatHints = {}, progress?: Progress): BeatReading[] {
  const levels = salienceLevels(onsets);
  const told = (hints.beats ?? []).length > 0;
  const take: Take = { onsets, salience: Float64Array.from(levels, salienceOf), told };
  const rounds = LEVELS.length + 1;
  // A search with a known beat may slip to another place of the beat later: the whole take with it there is a reading too.
  const searches = told ? [hints, { ...hints, beats: [] }] : [hints];
  const found = weighed(
    searches.flatMap((h, k) =>
      searchBeats(onsets, levels, h, (share) => progress?.((k + share) / searches.length / rounds)),
    ),
    take,
    hints,
  );
  // Beats that were told which no reading goes through, as by uneven tapping, tell the tempo only.
  if (found.length === 0) return told ? beatReadings(onsets, { ...hints, beats: [] }, progress) : [];
  const bpm = typicalBpm(found[0].beats);
  const others = LEVELS.flatMap((level, k) => {
    const [low, high] = [(bpm * level) / AROUND, bpm * level * AROUND];
    if (low < (hints.low ?? SLOWEST) || high > (hints.high ?? FASTEST)) return [];
    return searchBeats(onsets, levels, { ...hints, low, high }, (share) => progress?.((k + 1 + share) / rounds));
  });
  return offered([...found, ...weighed(others, take, hints)]);
}

/** Each path, and what it is with another beat, as the feel that explains it best; likeliest first. */
function weighed(paths: readonly FoundPath[], take: Take, hints: BeatHints): BeatReading[] {
  const crowded = isCrowded(take.onsets);
  const turns = crowded ? [0, 1 / 2] : PLACES;
  return withoutRepeats(paths)
    .flatMap((found) =>
      turns.map((turn) => ({ ...found, path: turn === 0 ? found.path : turned(found.path, turn, take.onsets), turn })),
    )
    .filter(({ path }) => !passesHint(path, hints.beats ?? []))
    .map(({ path, feel: own, turn, nats }): BeatReading => {
      const beats = settleOn(path, take.onsets);
      if (crowded) return { beats, feel: own, nats: nats - (turn > 0 ? AGAINST_OFF_BEAT : 0) };
      const as = (feel: Feel) => ({ feel, nats: weigh({ path, feel }, take) });
      const feels = FEEL_NAMES.filter((feel) => TURNS[feel].includes(turn));
      return { beats, ...feels.map(as).reduce((a, b) => (b.nats > a.nats ? b : a)) };
    })
    .sort(byNats);
}

/** Paths that are beats; what several explanations find is one. */
function withoutRepeats(paths: readonly FoundPath[]): FoundPath[] {
  const byBeats = new Map<string, FoundPath>();
  for (const found of paths) {
    const key = found.path.join();
    if (found.path.length > 1 && found.nats > (byBeats.get(key)?.nats ?? -Infinity)) byBeats.set(key, found);
  }
  return [...byBeats.values()];
}

/** What is less likely than what was found by this, in nats, where it is not weighed: off-beats are seldom the beat. */
const AGAINST_OFF_BEAT = 25;
/** Onsets closer than this are of several players, and so many of them make a crowd. */
const CLOSE: Ms = 60;
const CROWD = 0.1;

/**
 * Whether several players are heard together: then places are played more than once, each by its own time, and the
 * search's own likelihood says more than a rhythm does.
 */
function isCrowded(onsets: readonly Onset[]): boolean {
  const close = onsets.filter((o, i) => i > 0 && o.ms - onsets[i - 1].ms < CLOSE).length;
  return close > CROWD * onsets.length;
}

const FEEL_NAMES = Object.keys(FEELS) as Feel[];
/** Where in a beat the true one could be instead. */
const PLACES = [...new Set(Object.values(TURNS).flat())];

const byNats = (a: BeatReading, b: BeatReading) => b.nats - a.nats;

/** The same beats later by a share of one, and a beat before them where notes would be left without. */
function turned(beats: Float64Array, turn: number, onsets: readonly Onset[]): Float64Array {
  const later = moved(beats, turn);
  const before = later[0] - (beats[1] - beats[0]);
  return onsets[0].ms < later[0] - ON_BEAT ? Float64Array.of(before, ...later) : later;
}

/** The same beats later by a share of one. */
function moved(beats: Float64Array, share: number): Float64Array {
  const last = beats.length - 1;
  return beats.map((b, i) => b + share * (i < last ? beats[i + 1] - b : b - beats[i - 1]));
}

/**
 * Readings to choose from: no two alike, none that would be told in the same words; half or double is what is mistaken
 * most: the likelier of these is second, unless it is far less likely.
 */
function offered(all: readonly BeatReading[]): BeatReading[] {
  const [best, ...rest] = [...all].sort(byNats);
  const bpm = typicalBpm(best.beats);
  const isOctave = ({ beats }: BeatReading) => Math.abs(Math.abs(Math.log2(typicalBpm(beats) / bpm)) - 1) < 0.25;
  const octave = rest.find((r) => isOctave(r) && r.nats > best.nats - OCTAVE_BEHIND);
  const otherTempo = rest.some((r) => r.nats > best.nats - TEMPO_BEHIND && !isOneTempo(best, r));
  const atOneTempo = otherTempo ? OFFERED - 1 : OFFERED;
  const told: BeatReading[] = [best];
  for (const reading of octave ? [octave, ...rest] : rest) {
    if (told.length === OFFERED) break;
    if (told.some((t) => shared(t.beats, reading.beats) >= SAME)) continue;
    if (told.filter((t) => isOneTempo(t, reading)).length >= atOneTempo) continue;
    const named = besideTold(told, reading);
    if (!told.some((t) => soundsLike(t, named))) told.push(named);
  }
  return told;
}

/** The reading, with how much later its beats lie than those of one that is told and has its tempo. */
function besideTold(told: readonly BeatReading[], reading: BeatReading): BeatReading {
  const first = told.find((t) => t.later === undefined && isOneTempo(t, reading));
  if (!first) return reading;
  const by = laterBy(reading.beats, first.beats);
  const share = SHARES.reduce((a, b) => (Math.abs(b - by) < Math.abs(a - by) ? b : a));
  return shared(reading.beats, moved(first.beats, share)) >= SAME ? { ...reading, later: share } : reading;
}

/** How much later some beats typically lie than others, as a share of a beat; from 0 to 1. */
function laterBy(beats: Float64Array, than: Float64Array): number {
  const inside = beats.filter((b) => b > than[0] && b <= than[than.length - 1]);
  if (inside.length === 0) return 0;
  return median(
    inside.map((b) => {
      const next = firstAt(than, b);
      return (b - than[next - 1]) / (than[next] - than[next - 1]);
    }),
  );
}

/** Tempi this near are told as one. */
const SAME_TEMPO = 1.03;

function isOneTempo(a: BeatReading, b: BeatReading): boolean {
  const [one, other] = [typicalBpm(a.beats), typicalBpm(b.beats)];
  return Math.max(one / other, other / one) < SAME_TEMPO;
}

/** Whether two readings would be told in the same words: of one beside another the feel is not told. */
function soundsLike(a: BeatReading, b: BeatReading): boolean {
  return a.later === b.later && (a.later !== undefined || a.feel === b.feel) && isOneTempo(a, b);
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
