/** A line this many standard deviations away adds nothing to a density. */
const SEEN = 8;
/** Steps of the table to a standard deviation; between them it is a straight line, true to 8·10⁻⁶ of the top. */
const FINE = 128;
/** The normal density over distances, with 1 at its top: the fits ask for it millions of times. */
const BELL = Float64Array.from({ length: SEEN * FINE + 1 }, (_, i) => Math.exp(-((i / FINE) ** 2) / 2));
/** A stray note is always possible. */
const LEAST = 1e-12;

/**
 * Normal density of distances to the two lines around a place, either counted.
 * @param near and @param far in steps, in the same order
 * @param sigma standard deviation in steps
 */
export function densities(near: Float32Array, far: Float32Array, sigma: number): Float64Array {
  const scale = FINE / sigma;
  const norm = 1 / (sigma * Math.sqrt(2 * Math.PI));
  const end = SEEN * FINE;
  const density = new Float64Array(near.length);
  for (let i = 0; i < near.length; i++) {
    const a = Math.abs(near[i]) * scale;
    const b = Math.abs(far[i]) * scale;
    let sum = 0;
    if (a < end) {
      const k = a | 0;
      sum += BELL[k] + (a - k) * (BELL[k + 1] - BELL[k]);
    }
    if (b < end) {
      const k = b | 0;
      sum += BELL[k] + (b - k) * (BELL[k + 1] - BELL[k]);
    }
    density[i] = norm * sum + LEAST;
  }
  return density;
}
