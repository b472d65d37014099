import type { Ms } from '../time';
import type { Hit } from './onsets';

/** The lowest and the highest samples of equal stretches, from −127 to 127. */
interface Level {
  /** Length of a stretch. */
  readonly ms: Ms;
  readonly low: Int8Array;
  readonly high: Int8Array;
}

/** A sound as it is drawn: finely, and coarsely for long stretches. */
export interface Peaks {
  readonly levels: readonly Level[];
  /**
   * How steep the sound is at most in each fine stretch, the root of it, 0 to 255: of low tones that ring on from before
   * little is left in it, so that soft hits show beside them.
   */
  readonly slope: Uint8Array;
}

const FINE: Ms = 0.5;
/** A coarse stretch holds so many fine ones. */
const COARSER = 32;

/** @param sides samples of each channel, from −1 to 1 @param rate samples a second */
export function peaksOf(sides: readonly Float32Array[], rate: number): Peaks {
  const perStretch = (FINE / 1000) * rate;
  const count = Math.ceil(sides[0].length / perStretch);
  const low = new Int8Array(count);
  const high = new Int8Array(count);
  const slope = new Uint8Array(count);
  for (let k = 0; k < count; k++) {
    const to = Math.min(sides[0].length, Math.round((k + 1) * perStretch));
    let [least, most, steepest] = [1, -1, 0];
    for (const side of sides) {
      for (let i = Math.round(k * perStretch); i < to; i++) {
        least = Math.min(least, side[i]);
        most = Math.max(most, side[i]);
        steepest = Math.max(steepest, Math.abs(side[i] - (i > 0 ? side[i - 1] : 0)));
      }
    }
    low[k] = Math.round(127 * Math.max(-1, Math.min(least, most)));
    high[k] = Math.round(127 * Math.min(1, Math.max(least, most)));
    slope[k] = Math.round(255 * Math.min(1, Math.sqrt(steepest / 2)));
  }
  const fine = { ms: FINE, low, high };
  return { levels: [fine, coarser(fine)], slope };
}

function coarser({ ms, low, high }: Level): Level {
  const count = Math.ceil(low.length / COARSER);
  const of = (values: Int8Array, choose: (values: Int8Array) => number) =>
    Int8Array.from({ length: count }, (_, k) => choose(values.subarray(k * COARSER, (k + 1) * COARSER)));
  return {
    ms: ms * COARSER,
    low: of(low, (v) => v.reduce((a, b) => Math.min(a, b), 127)),
    high: of(high, (v) => v.reduce((a, b) => Math.max(a, b), -128)),
  };
}

/** The lowest and the highest of a stretch of the file, −1 to 1; null outside the file. */
export function peakBetween({ levels: [fine, coarse] }: Peaks, from: Ms, to: Ms): readonly [number, number] | null {
  const level = to - from > 2 * coarse.ms ? coarse : fine;
  const first = Math.max(0, Math.floor(from / level.ms));
  const last = Math.min(level.low.length, Math.max(Math.ceil(to / level.ms), Math.floor(from / level.ms) + 1));
  if (first >= last) return null;
  let [low, high] = [127, -127];
  for (let i = first; i < last; i++) {
    low = Math.min(low, level.low[i]);
    high = Math.max(high, level.high[i]);
  }
  return [low / 127, high / 127];
}

/** A hit that is put in by hand is where the sound rises most, so far on either side. */
const NEAR: Ms = 20;
/** What was before is looked at over so long. */
const BEFORE: Ms = 4;
/** The first place that rises by this share of the most. */
const GOOD_PART = 0.5;

/** Where near a place the sound rises, and how strong it is there against the strongest; the place itself where it does not. */
export function riseNear({ slope }: Peaks, ms: Ms): Hit {
  const size = (k: number) => slope[k] ?? 0;
  const back = Math.round(BEFORE / FINE);
  const from = Math.max(0, Math.round((ms - NEAR) / FINE));
  const to = Math.min(slope.length - 1, Math.round((ms + NEAR) / FINE));
  const rises: number[] = [];
  for (let k = from; k <= to; k++) {
    let before = 0;
    for (let b = 1; b <= back; b++) before = Math.max(before, size(k - b));
    rises.push(size(k) - before);
  }
  const most = rises.reduce((a, b) => Math.max(a, b), 0);
  if (most === 0) return { ms, strength: 0 };
  const at = from + rises.findIndex((r) => r >= GOOD_PART * most);
  const strongest = slope.reduce((a, b) => Math.max(a, b), 0);
  const here = slope.subarray(at, at + back).reduce((a, b) => Math.max(a, b), 0);
  return { ms: at * FINE, strength: (here / strongest) ** 2 };
}
