import type { Interval } from './bootstrap';

/** Scales are doubled as long as so many pairs of blocks are there. */
const FEWEST_PAIRS = 3;
/** What lies beyond the take moves its median too: so many octaves of a 1/f noise count. */
const OCTAVES_BEYOND = 2.5;
/** Variance of a median against that of a mean, for normal values. */
const OF_A_MEDIAN = Math.PI / 2;

/**
 * 95 % interval of the median of a player's offsets. Neighbours are alike far beyond any block that a bootstrap could
 * draw: about half of the variance is 1/f (Hennig et al. 2011, PLoS ONE 6:e26457). So the noise is taken apart into
 * a white part w and a part with the same variance p an octave, by how much neighbouring block means differ at each
 * scale (the Allan variance: Allan 1966, Proc. IEEE 54:2): `½·mean(B′ − B)² = w/m + p` for blocks of m values. The
 * median then has the variance `π/2·w/n + p·octaves beyond`.
 */
export function middleInterval(offsets: Float64Array, middle: number): Interval {
  const n = offsets.length;
  // A few wild values are not the player's unevenness.
  const calm = clipped(offsets, middle);
  const { white, octave } = noiseOf(calm);
  const sd = Math.sqrt((OF_A_MEDIAN * white) / n + OCTAVES_BEYOND * octave);
  const reach = quantileOfT(n) * sd;
  return { low: middle - reach, high: middle + reach };
}

/** Splits a series' variance into a white part and one that is the same in each octave. */
export function noiseOf(values: Float64Array): { white: number; octave: number } {
  const scales: { size: number; half: number; weight: number }[] = [];
  let blocks = values;
  for (let size = 1; blocks.length >= 2 * FEWEST_PAIRS || size === 1; size *= 2) {
    if (blocks.length < 2) break;
    let sum = 0;
    for (let i = 1; i < blocks.length; i++) sum += (blocks[i] - blocks[i - 1]) ** 2;
    const half = sum / (2 * (blocks.length - 1));
    scales.push({ size, half, weight: blocks.length });
    const next = new Float64Array(blocks.length >> 1);
    for (let i = 0; i < next.length; i++) next[i] = (blocks[2 * i] + blocks[2 * i + 1]) / 2;
    blocks = next;
  }
  return fitNoise(scales);
}

/** Weighted least squares of `half = white/size + octave`, relative to what is expected, neither below 0. */
function fitNoise(scales: readonly { size: number; half: number; weight: number }[]): {
  white: number;
  octave: number;
} {
  if (scales.length === 0) return { white: 0, octave: 0 };
  let white = scales[0].half;
  let octave = 0;
  for (let round = 0; round < 8; round++) {
    let [aa, ab, bb, ay, by] = [0, 0, 0, 0, 0];
    for (const { size, half, weight } of scales) {
      const expected = white / size + octave + 1e-12;
      const w = weight / (expected * expected);
      const a = 1 / size;
      aa += w * a * a;
      ab += w * a;
      bb += w;
      ay += w * a * half;
      by += w * half;
    }
    const det = aa * bb - ab * ab;
    const both = det > 1e-9 * aa * bb;
    white = both ? (bb * ay - ab * by) / det : ay / aa;
    octave = both ? (aa * by - ab * ay) / det : 0;
    if (octave < 0) [white, octave] = [ay / aa, 0];
    if (white < 0) [white, octave] = [0, by / bb];
  }
  return { white, octave };
}

function clipped(values: Float64Array, middle: number): Float64Array {
  const away = values.map((v) => Math.abs(v - middle)).sort();
  // Four standard deviations of a normal spread with this median deviation.
  const most = Math.max(1e-9, 4 * 1.4826 * away[away.length >> 1]);
  return values.map((v) => Math.min(middle + most, Math.max(middle - most, v)));
}

/** The 97.5 % quantile of Student's t (Cornish & Fisher's expansion, first terms), for few values. */
function quantileOfT(n: number): number {
  const z = 1.959964;
  const df = Math.max(1, n - 1);
  return z + (z ** 3 + z) / (4 * df) + (5 * z ** 5 + 16 * z ** 3 + 3 * z) / (96 * df * df);
}
