import { meterOf, partsOf, type Part, type Song, type SongTimes } from '../song';
import type { Ms } from '../time';
import type { Bars } from './bars';
import { rankDownbeats } from './downbeat';
import { typicalBpm, type BeatHints } from './find-beats';
import { beatReadings, type BeatReading, type BeatShare } from './readings';
import type { Progress } from '../follow';
import { onsetsOf, type Onset } from './onsets';
import { fitTempo, type FittedTempo } from './tempo-fit';

/** How a fit is to be; what is left out is found from the playing. */
export interface FitWishes extends BeatHints {
  /** Beats a bar; by default those of the song's first meter. */
  readonly perBar?: number;
  /** Which found beat the first whole bar begins with, from 0. */
  readonly downbeat?: number;
  /** Later found beats, from 0, with which a bar begins anew, such as after a fermata. */
  readonly anew?: readonly number[];
  /** From 0, few changes of tempo, to 1, one at each beat. */
  readonly changes?: number;
  /** Beats that were set by hand, in ms; none are looked for then. */
  readonly given?: readonly Ms[];
  /** Which of the readings, from 0. */
  readonly reading?: number;
}

/** Beats that were found in free playing, and the tempo map that goes with them. */
export interface BeatFit extends Bars {
  readonly beats: Float64Array;
  readonly anew: readonly number[];
  /** Beats that the first whole bar may begin with, likeliest first. */
  readonly downbeats: readonly number[];
  /** Typical tempo, in beats a minute. */
  readonly bpm: number;
  readonly ppq: number;
  readonly fitted: FittedTempo;
  /** What the beats could be, likeliest first; none where they were set by hand. */
  readonly readings: readonly BeatsTold[];
  /** Which of them it is. */
  readonly reading: number;
}

/** A reading of the beats, to be told. */
export interface BeatsTold extends Pick<BeatReading, 'feel' | 'later'> {
  readonly bpm: number;
}

/** No tick may be longer than this, so that half of one is no more than half a ms. */
const LONGEST_TICK: Ms = 1;
/** What leads in before the first beat may be slower than the playing by this factor. */
const LEAD_IN = 1.5;
/**
 * No beat is longer: over a longer rest there are several. With the lead-in it fits into the 24 bits of a tempo, and
 * its ticks a quarter into the 15 bits of a file.
 */
const LONGEST_BEAT: Ms = 10_000;
/** Fewer beats make no tempo. */
const FEWEST = 2;

/** Finds the beats of some parts of a song and fits a tempo map to them; null where too little is played. */
export function fitBeats(
  song: Song,
  parts: readonly Part[] | null,
  wishes: FitWishes = {},
  progress?: Progress,
): BeatFit | null {
  return fitOnsets(onsetsOf(parts ?? [...partsOf(song)].map((p) => p.part), song), song, wishes, progress);
}

/** The same for onsets. */
export function fitOnsets(
  onsets: readonly Onset[],
  song: SongTimes,
  wishes: FitWishes,
  progress?: Progress,
): BeatFit | null {
  const readings = wishes.given ? [] : beatReadings(onsets, wishes, progress);
  const reading = Math.min(wishes.reading ?? 0, Math.max(0, readings.length - 1));
  const found = wishes.given ?? readings.at(reading)?.beats ?? [];
  if (found.length < FEWEST) return null;
  const beats = overRests(found);
  const first = meterOf(song).pieces[0];
  const perBar = wishes.perBar ?? (first.denominator === 4 ? first.numerator : 4);
  const downbeats = rankDownbeats(beats, onsets, perBar);
  const indexOf = (at: number | undefined): number => (at === undefined ? -1 : beats.indexOf(found[at]));
  const wished = indexOf(wishes.downbeat);
  const downbeat = wished < 0 ? downbeats[0] : wished;
  const anew = [...new Set((wishes.anew ?? []).map(indexOf))].filter((at) => at > downbeat).sort((a, b) => a - b);
  const gaps = Float64Array.from(beats.subarray(1), (b, i) => b - beats[i]).sort();
  const ppq = song.ppq * Math.ceil((LEAD_IN * gaps[gaps.length - 1]) / (LONGEST_TICK * song.ppq));
  const fitted = fitTempo(beats, { ppq, perBar, downbeat, anew, changes: wishes.changes ?? DEFAULT_CHANGES });
  return {
    beats,
    perBar,
    downbeat,
    anew,
    downbeats,
    bpm: 60_000 / gaps[gaps.length >> 1],
    ppq,
    fitted,
    readings: readings.map(({ beats, feel, later }) => ({
      feel,
      bpm: typicalBpm(beats),
      ...(later && { later }),
    })),
    reading,
  };
}

/** The same beats, with more of them where two are too far apart for one beat. */
function overRests(beats: ArrayLike<Ms>): Float64Array {
  const all: Ms[] = [];
  for (let i = 0; i + 1 < beats.length; i++) {
    const parts = Math.ceil((beats[i + 1] - beats[i]) / LONGEST_BEAT);
    for (let k = 0; k < Math.max(1, parts); k++) all.push(beats[i] + ((beats[i + 1] - beats[i]) * k) / parts);
  }
  return Float64Array.of(...all, beats[beats.length - 1]);
}

/** Changes where the playing changes, not at each beat. */
export const DEFAULT_CHANGES = 0.35;

const WORDS_LATER: Record<BeatShare, string> = {
  [1 / 4]: 'a quarter of a beat later',
  [1 / 3]: 'a third of a beat later',
  [1 / 2]: 'on the off-beats',
  [2 / 3]: 'a third of a beat earlier',
  [3 / 4]: 'a quarter of a beat earlier',
};

/** A reading in words: `112 BPM in sixteenths`. */
export function beatsText({ bpm, feel, later }: BeatsTold): string {
  const how = later ? WORDS_LATER[later] : feel === 'mixed' ? 'in mixed values' : `in ${feel}`;
  return `${bpm.toFixed(0)} BPM ${how}`;
}
