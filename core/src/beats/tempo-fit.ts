import type { SongMeter, SongTempo } from '../song';
import type { Ms, Ticks } from '../time';

/** A tempo map under which given beats lie on the beats of bars. */
export interface FittedTempo {
  readonly tempo: readonly SongTempo[];
  readonly meter: readonly SongMeter[];
  /** Where each beat of the bars lies in ms, from the song's start on: as given, and what leads in before them. */
  readonly beats: readonly Ms[];
  /** The first whole bar begins with this beat of them. */
  readonly firstBar: number;
}

export interface FitOptions {
  readonly ppq: number;
  /** Beats a bar. */
  readonly perBar: number;
  /** Index of the given beat that the first whole bar begins with. */
  readonly downbeat: number;
  /** From 0, as few changes as explain the playing, to 1, one at each beat. */
  readonly changes: number;
  /** Indices of later given beats with which a bar begins anew, ascending. */
  readonly anew?: readonly number[];
}

/** A beat may lie this far from its line without a change of tempo being worth it. */
const SPREAD: Ms = 15;
/** Cost of a change where they are to be few, and where they may be many. */
const COST_OF_FEW = 60;
const COST_OF_MANY = 0.0003;
const MOST_US = 0xffffff;

/**
 * Writes a tempo map for beats that were found or tapped, with as few changes as explain them: the piecewise constant
 * tempo through some of the beats with the least sum of squared misses and a cost for each change (dynamic
 * programming after Bellman 1961). From the song's start to the first beat goes a lead-in in about its tempo.
 * @param given beats in ms, ascending, at least two
 */
export function fitTempo(given: ArrayLike<Ms>, { ppq, perBar, downbeat, changes, anew = [] }: FitOptions): FittedTempo {
  const { beats, lead, dropped } = withLeadIn(given);
  const first = lead + downbeat - dropped;
  // The bar that began before the song's start is none: the next one is the first that is whole.
  const firstBar = first < 0 ? first + perBar * Math.ceil(-first / perBar) : first;
  const cost = COST_OF_FEW * (COST_OF_MANY / COST_OF_FEW) ** changes;
  const knots = chooseKnots(beats, cost, Math.min(lead, beats.length - 1));
  const later = anew.map((at) => lead + at - dropped).filter((at) => at > firstBar && at < beats.length);
  return { tempo: tempoThrough(knots, beats, ppq), meter: meterOf(firstBar, perBar, later, ppq), beats, firstBar };
}

/** Beats from the song's start on: those before the first go back in its tempo. */
function withLeadIn(given: ArrayLike<Ms>): { beats: Ms[]; lead: number; dropped: number } {
  const beats = Array.from(given);
  // One that lies more than half a beat before the start is no beat of the song: the next one begins it.
  while (beats.length > 2 && beats[0] < (beats[0] - beats[1]) / 2) beats.shift();
  const dropped = given.length - beats.length;
  const period = beats[1] - beats[0];
  const lead = Math.max(0, Math.round(beats[0] / period));
  // A hair from the start, or before it, the first beat is the start.
  if (lead === 0) return { beats: [0, ...beats.slice(1)], lead, dropped };
  return { beats: [...Array.from({ length: lead }, (_, k) => (beats[0] * k) / lead), ...beats], lead, dropped };
}

/** Indices of the beats at which the tempo may change; the lead-in's end is one if it has its own tempo. */
function chooseKnots(beats: readonly Ms[], cost: number, lead: number): number[] {
  const n = beats.length;
  // Sums from which the misses of any stretch from its chord follow at once.
  const [sb, skb, sbb] = [new Float64Array(n + 1), new Float64Array(n + 1), new Float64Array(n + 1)];
  for (let k = 0; k < n; k++) {
    sb[k + 1] = sb[k] + beats[k];
    skb[k + 1] = skb[k] + k * beats[k];
    sbb[k + 1] = sbb[k] + beats[k] * beats[k];
  }
  const misses = (i: number, j: number): number => {
    const slope = (beats[j] - beats[i]) / (j - i);
    const base = beats[i] - slope * i;
    const count = j - i + 1;
    const sk = ((i + j) * count) / 2;
    const skk = squares(j) - squares(i - 1);
    const b = sb[j + 1] - sb[i];
    const kb = skb[j + 1] - skb[i];
    const bb = sbb[j + 1] - sbb[i];
    return bb + slope * slope * skk + base * base * count - 2 * slope * kb - 2 * base * b + 2 * slope * base * sk;
  };
  const least = new Float64Array(n).fill(Infinity);
  const from = new Int32Array(n);
  least[0] = 0;
  for (let j = 1; j < n; j++) {
    // The lead-in's tempo is nobody's playing: no stretch goes across its end.
    for (let i = j <= lead ? 0 : Math.max(lead, j - LONGEST); i < j; i++) {
      const total = least[i] + cost + Math.max(0, misses(i, j)) / (2 * SPREAD * SPREAD);
      if (total < least[j]) {
        least[j] = total;
        from[j] = i;
      }
    }
  }
  const knots: number[] = [];
  for (let j = n - 1; j > 0; j = from[j]) knots.push(j);
  return [0, ...knots.reverse()];
}

/** Beats that one tempo is looked for over at most. */
const LONGEST = 1500;

const squares = (k: number): number => (k * (k + 1) * (2 * k + 1)) / 6;

/** Whole microseconds a quarter, what each loses by rounding made up for by the next. */
function tempoThrough(knots: readonly number[], beats: readonly Ms[], ppq: number): SongTempo[] {
  const tempo: SongTempo[] = [];
  let at: Ms = 0;
  for (let k = 0; k + 1 < knots.length; k++) {
    const [i, j] = [knots[k], knots[k + 1]];
    const us = Math.min(MOST_US, Math.max(1, Math.round(((beats[j] - at) * 1000) / (j - i))));
    at += (us * (j - i)) / 1000;
    if (tempo[tempo.length - 1]?.usPerQuarter !== us) tempo.push({ tick: i * ppq, usPerQuarter: us });
  }
  return tempo;
}

/** Whole bars from the first one on; a bar that one begins anew behind is as long as it came to be. Indices of beats. */
function meterOf(firstBar: number, perBar: number, anew: readonly number[], ppq: number): SongMeter[] {
  const meter: SongMeter[] = [];
  const bars = (beat: number, numerator: number): void => {
    const tick: Ticks = beat * ppq;
    if (meter.at(-1)?.tick === tick) meter.pop();
    if (meter.at(-1)?.numerator !== numerator) {
      meter.push({ tick, numerator, denominator: 4, clocks: 24, thirtySeconds: 8 });
    }
  };
  const pickup = firstBar % perBar;
  if (pickup > 0) bars(0, pickup);
  bars(pickup, perBar);
  let origin = firstBar;
  for (const at of anew) {
    const over = (at - origin) % perBar;
    if (over > 0) {
      bars(at - over, over);
      bars(at, perBar);
    }
    origin = at;
  }
  return meter;
}

/** A tempo map with its pieces that much nearer to one tempo. @param strength from 0 to 1 */
export function steadier({ tempo, beats }: FittedTempo, strength: number): SongTempo[] {
  const mean = ((beats[beats.length - 1] - beats[0]) * 1000) / (beats.length - 1);
  const blended = tempo.map(({ tick, usPerQuarter }) => ({
    tick,
    usPerQuarter: Math.round(usPerQuarter + strength * (mean - usPerQuarter)),
  }));
  return blended.filter((t, i) => i === 0 || t.usPerQuarter !== blended[i - 1].usPerQuarter);
}
