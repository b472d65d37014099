import type { SongMeter, SongTempo } from '../song';
import type { Ms, Ticks } from '../time';

/** A tempo map under which given beats lie on the beats of bars. */
export interface FittedTempo {
  readonly tempo: readonly SongTempo[];
  readonly meter: readonly SongMeter[];
  /** Given beats that are in the song, in ms; the first may have been moved to its start. */
  readonly beats: readonly Ms[];
  /** So many given ones lie before the song. */
  readonly dropped: number;
  /** Where the first beat of {@link beats} is, the others each a quarter further. */
  readonly lead: Ticks;
  /** Where the first whole bar begins that the downbeat asks for. */
  readonly firstBar: Ticks;
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
 * programming after Bellman 1961). What leads in from the song's start to the first beat is in about its tempo too:
 * where it is no whole number of beats, bar 1 begins later.
 * @param given beats in ms, ascending, at least two
 */
export function fitTempo(given: ArrayLike<Ms>, { ppq, perBar, downbeat, changes, anew = [] }: FitOptions): FittedTempo {
  const { beats, dropped } = inSong(given);
  const lead = leadOf(beats, ppq);
  const tickOf = (at: number): Ticks => lead + (at - dropped) * ppq;
  const bar = perBar * ppq;
  // The bar that began before the song's start is none: the next one is the first that is whole.
  const firstBar = tickOf(downbeat) + bar * Math.max(0, Math.ceil(-tickOf(downbeat) / bar));
  const later = anew.map(tickOf).filter((tick) => tick > firstBar && tick < tickOf(given.length));
  const cost = COST_OF_FEW * (COST_OF_MANY / COST_OF_FEW) ** changes;
  const tempo = tempoThrough(chooseKnots(beats, cost), beats, lead, ppq);
  return { tempo, meter: meterOf(firstBar, perBar, later, ppq), beats, dropped, lead, firstBar };
}

/** A first beat this near the song's start, as a share of a beat, is the start. */
const AT_START = 0.1;

function inSong(given: ArrayLike<Ms>): { beats: Ms[]; dropped: number } {
  const beats = Array.from(given);
  const near = () => (beats[1] - beats[0]) * AT_START;
  while (beats.length > 2 && beats[0] < -near()) beats.shift();
  const dropped = given.length - beats.length;
  if (beats[0] < near()) beats[0] = 0;
  return { beats, dropped };
}

/** What leads in may be slower or faster than the first beats by this factor. */
const LEAD_WITHIN = 1.25;
/** It is counted in quarters or in these parts of one. */
const PARTS = [1, 2, 4, 8] as const;

/** What leads in to the first beat: in quarters where that is near its tempo, else in as coarse a part of one as will do. */
function leadOf(beats: readonly Ms[], ppq: number): Ticks {
  const quarters = beats[0] / (beats[1] - beats[0]);
  if (quarters === 0) return 0;
  const counts = PARTS.filter((part) => ppq % part === 0).map(
    (part) => Math.max(1, Math.round(quarters * part)) / part,
  );
  const off = (count: number) => Math.max(count / quarters, quarters / count);
  const near = counts.find((count) => off(count) <= LEAD_WITHIN);
  return (near ?? counts.reduce((a, b) => (off(b) < off(a) ? b : a))) * ppq;
}

/** Indices of the beats at which the tempo may change, first and last included. */
function chooseKnots(beats: readonly Ms[], cost: number): number[] {
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
    for (let i = Math.max(0, j - LONGEST); i < j; i++) {
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
function tempoThrough(knots: readonly number[], beats: readonly Ms[], lead: Ticks, ppq: number): SongTempo[] {
  const tempo: SongTempo[] = [];
  let [at, tick]: [Ms, Ticks] = [0, 0];
  const goOn = (to: Ms, upTo: Ticks): void => {
    const quarters = (upTo - tick) / ppq;
    const us = Math.min(MOST_US, Math.max(1, Math.round(((to - at) * 1000) / quarters)));
    if (tempo[tempo.length - 1]?.usPerQuarter !== us) tempo.push({ tick, usPerQuarter: us });
    at += (us * quarters) / 1000;
    tick = upTo;
  };
  // What leads in is nobody's playing: no stretch goes across its end.
  if (lead > 0) goOn(beats[0], lead);
  for (const j of knots.slice(1)) goOn(beats[j], lead + j * ppq);
  return tempo;
}

/** Whole bars from the first one on; what comes before, or before one that begins anew, is as long as it came to be. */
function meterOf(firstBar: Ticks, perBar: number, anew: readonly Ticks[], ppq: number): SongMeter[] {
  const meter: SongMeter[] = [];
  const bars = (tick: Ticks, numerator: number, denominator: number): void => {
    if (meter.at(-1)?.tick === tick) meter.pop();
    const last = meter.at(-1);
    if (last?.numerator !== numerator || last.denominator !== denominator) {
      meter.push({ tick, numerator, denominator, clocks: 24, thirtySeconds: 8 });
    }
  };
  const short = (tick: Ticks, length: Ticks): void => {
    const part = PARTS.find((p) => (length * p) % ppq === 0) ?? 1;
    bars(tick, (length * part) / ppq, 4 * part);
  };
  const bar = perBar * ppq;
  const pickup = firstBar % bar;
  if (pickup > 0) short(0, pickup);
  bars(pickup, perBar, 4);
  let origin = firstBar;
  for (const at of anew) {
    const over = (at - origin) % bar;
    if (over > 0) {
      short(at - over, over);
      bars(at, perBar, 4);
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
