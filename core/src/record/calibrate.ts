import { median } from '../maths';
import type { Ms } from '../time';

/** How late somebody tapped. */
export interface Calibration {
  /** Median of the taps against their beats: the latency of device, computer and ears together. */
  readonly latency: Ms;
  /** Median distance of single taps from it. */
  readonly spread: Ms;
  readonly taps: number;
}

/** The first taps find the beat. */
const FINDING = 2;
/** A tap that is further from every beat than this share of the beat is none. */
const NEAR = 0.4;
/** Fewer taps tell nothing. */
export const FEWEST_TAPS = 6;

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
  const latency = median(off);
  return { latency, spread: median(off.map((d) => Math.abs(d - latency))), taps: off.length };
}
