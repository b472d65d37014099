import type { Lines } from '../grid';

/** Bins a step of the drift axis: coarser where the lines repeat only after many steps. */
const FINE = 32;
const COARSE = 24;
const MOST_BINS = 480;

/**
 * Every chord against every drift that a player may have: a circular axis over the cycle in which the
 * lines repeat. All in steps.
 */
export interface Circle {
  readonly count: number;
  readonly bins: number;
  /** Width of a bin. */
  readonly width: number;
  /** Drift of each bin, from −half a cycle up to half a cycle. */
  readonly drift: Float64Array;
  readonly place: Float64Array;
  /** Signed distance from each chord's place less the drift to its nearest line; a row of bins a chord. */
  readonly near: Float32Array;
  /** The same to the next line on the other side. */
  readonly far: Float32Array;
}

/** @param cycle length of the cycle in steps; @param unit ticks a step */
export function circleOf(places: Float64Array, lines: Lines, unit: number, cycle: number): Circle {
  const wanted = cycle * (cycle <= 2 ? FINE : COARSE);
  const bins = Math.max(8, 2 * Math.round(Math.min(MOST_BINS, wanted) / 2));
  const width = cycle / bins;
  const drift = Float64Array.from({ length: bins }, (_, k) => (k - bins / 2) * width);
  const count = places.length;
  const near = new Float32Array(count * bins);
  const far = new Float32Array(count * bins);
  for (let i = 0; i < count; i++) {
    for (let k = 0; k < bins; k++) {
      let at = places[i] - drift[k] * unit;
      // There are no lines before the song's start; a whole cycle later they look the same.
      while (at < unit * cycle) {
        at += unit * cycle;
      }
      lines.locate(at);
      const below = lines.before - at;
      const above = lines.after - at;
      const belowIsNearest = -below < above;
      near[i * bins + k] = (belowIsNearest ? below : above) / unit;
      far[i * bins + k] = (belowIsNearest ? above : below) / unit;
    }
  }
  return { count, bins, width, drift, place: places.map((t) => t / unit), near, far };
}
