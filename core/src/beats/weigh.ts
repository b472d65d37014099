import { logSumExp } from '../maths';
import { cueNats } from './cue-evidence';
import { AGAINST, AGAINST_CUES, FEELS, isOff, SWINGS, swungPlaces, TILT, TURNS, type Feel, type Places } from './feel';
import type { Onset } from './onsets';
import { typicalBpm } from './find-beats';
import { placeOnsets, type Placed } from './placed';
import { rhythmNats } from './rhythm-evidence';
import { timingNats } from './timing-evidence';

/** People tap most readily near this tempo (Parncutt 1994, Music Perception 11:4); once for a take, in nats for an octave. */
const READY_BPM = 110;
const READY_WEIGHT = 30;
/** How often an onset is at no place, as a share of all. */
const WILD = 0.12;

/** What is played can say no more than this, in nats, against a beat that somebody has told. */
const AGAINST_TOLD = 5;

/** A take, and what stands out in it. */
export interface Take {
  readonly onsets: readonly Onset[];
  /** Of each onset, in standard deviations. */
  readonly salience: Float64Array;
  /** Somebody has said where a beat is. */
  readonly told: boolean;
}

/** Beats as one explanation has them. */
export interface Explained {
  /** ms, ascending, at least two. */
  readonly path: Float64Array;
  readonly feel: Feel;
}

/**
 * How well some beats explain a take, in nats, comparable whatever their tempo and feel: how its times lie to them, how
 * its rhythm comes again, what stands out, how ready the tempo is; and which of a beat's places is the beat.
 */
export function weigh(explained: Explained, take: Take): number {
  const octaves = Math.log2(typicalBpm(explained.path) / READY_BPM);
  const ways = SWINGS[explained.feel].map((later) => weighSwung(explained, take, later));
  return Math.max(...ways) - READY_WEIGHT * octaves * octaves - AGAINST[explained.feel];
}

/** The same with its off-beats about so much later, a share of a beat. */
function weighSwung({ path, feel }: Explained, { onsets, salience, told }: Take, about: number): number {
  const later = about === 0 ? 0 : swingNear(path, feel, onsets, about);
  // Off-beats that come early are late ones of other beats.
  if (later < 0) return -Infinity;
  const places = swungPlaces(feel, later);
  const placed = placeOnsets(path, onsets, places);
  const rate = onsets.length / Math.max(1, onsets[onsets.length - 1].ms - onsets[0].ms);
  const turn = (tilt: number) => Math.max(turnNats(placed, feel, tilt, salience), told ? -AGAINST_TOLD : -Infinity);
  const wild = placed.at.reduce((count, at) => count + (at < 0 ? 1 : 0), 0);
  return (
    timingNats(path, onsets, placed, places) -
    (onsets.length - wild) * Math.log(rate) +
    wild * Math.log(WILD) +
    rhythmNats(placed) +
    // What stands out tells nothing, or the beat.
    Math.max(turn(0), cueNats(placed, salience) - AGAINST_CUES + turn(TILT)) -
    // A swing is one of several, and a fitted value.
    (about === 0 ? 0 : Math.log(SWINGS[feel].length - 1) + Math.log(onsets.length) / 2)
  );
}

/** Where the off-beats lie that are about so late: the mean of those, as a share of a beat. */
function swingNear(path: Float64Array, feel: Feel, onsets: readonly Onset[], about: number): number {
  const places = swungPlaces(feel, about);
  const { at, width } = placeOnsets(path, onsets, places);
  let [sum, count] = [0, 0];
  for (let i = 0; i < at.length; i++) {
    if (at[i] < 0 || !isOff(feel, FEELS[feel][at[i] % width][0])) continue;
    const beat = Math.min(path.length - 2, Math.floor(at[i] / width));
    sum += (onsets[i].ms - path[beat]) / (path[beat + 1] - path[beat]) - places[at[i] % width][0];
    count++;
  }
  return about + (count > 0 ? sum / count : 0);
}

/** How likely the beat is where it is said to be, of the places of it where it could be, in nats. */
function turnNats({ played, at, width }: Placed, feel: Feel, tilt: number, salience: Float64Array): number {
  const places = FEELS[feel];
  const used = new Float64Array(width);
  for (let i = 0; i < played.length; i++) used[i % width] += played[i];
  const standing = new Float64Array(width);
  for (let i = 0; i < at.length; i++) if (at[i] >= 0) standing[at[i] % width] += tilt * salience[i];
  const each = TURNS[feel].map((turn) =>
    places.reduce((sum, [place], p) => {
      const there = nearestPlace(places, (place - turn + 1) % 1);
      return sum + used[p] * Math.log(places[there][1]) + (there === 0 ? standing[p] : 0);
    }, 0),
  );
  return each[0] - logSumExp(each);
}

function nearestPlace(places: Places, at: number): number {
  const away = places.map(([place]) => Math.min(Math.abs(place - at), 1 - Math.abs(place - at)));
  return away.indexOf(Math.min(...away));
}
