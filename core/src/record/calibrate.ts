import { median } from '../maths';
import type { Ms } from '../time';

/** How late somebody tapped. */
export interface Calibration {
  /** Mean of the taps against their beats, without those far out: the latency of device, computer and ears together. */
  readonly latency: Ms;
  /** Median distance of single taps from it. */
  readonly spread: Ms;
  /** The latency lies within this on either side, 19 times in 20, if taps are off independently of each other. */
  readonly sure: Ms;
  readonly taps: number;
}

/** The first taps find the beat. */
const FINDING = 2;
/** A tap that is further from every beat than this share of the beat is none. */
const NEAR = 0.4;
/** Fewer taps tell nothing. */
export const FEWEST_TAPS = 6;
/** A tap further from the median than so many standard deviations was a slip. */
const SLIP = 4;
/** Of normal values the standard deviation is so many times the median distance. */
const SD_OF_MAD = 1.4826;

/** Latency from taps along with a click, each against its nearest beat; null for too few. */
export function calibrate(beats: ArrayLike<Ms>, taps: ArrayLike<Ms>): Calibration | null {
  const at = Array.from(beats);
  if (at.length < 2) return null;
  const beat = at[1] - at[0];
  const off = Array.from(taps)
    .map((tap) => at.reduce((best, b) => (Math.abs(tap - b) < Math.abs(best) ? tap - b : best), Infinity))
    .filter((d) => Math.abs(d) <= NEAR * beat)
    .slice(FINDING);
  if (off.length < FEWEST_TAPS) return null;
  const middle = median(off);
  const spread = median(off.map((d) => Math.abs(d - middle)));
  // The mean is surer than the median of as many taps; slips are kept out of it.
  const good = off.filter((d) => Math.abs(d - middle) <= SLIP * SD_OF_MAD * spread);
  const n = good.length;
  const latency = good.reduce((sum, d) => sum + d, 0) / n;
  const variance = good.reduce((sum, d) => sum + (d - latency) ** 2, 0) / (n - 1);
  // Student's t at 97.5 % for n − 1 degrees of freedom, to 2 % (common practice: 1.96 for many).
  const t = 1.96 + 2.9 / (n - 1);
  return { latency, spread, sure: t * Math.sqrt(variance / n), taps: off.length };
}
