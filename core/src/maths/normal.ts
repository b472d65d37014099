/** Standard normal density. */
export function normalDensity(z: number): number {
  return Math.exp(-0.5 * z * z) / Math.sqrt(2 * Math.PI);
}

/**
 * Standard normal distribution function Φ, to about 1e−15: the series of Abramowitz & Stegun 26.2.11 up to
 * |z| = 3, their continued fraction 26.2.14 beyond.
 */
export function normalCdf(z: number): number {
  if (z < 0) return 1 - normalCdf(-z);
  if (z > 38) return 1;
  if (z < 3) {
    let term = z;
    let sum = z;
    for (let k = 1; k < 200 && Math.abs(term) > 1e-18; k++) {
      term *= (z * z) / (2 * k + 1);
      sum += term;
    }
    return 0.5 + sum * normalDensity(z);
  }
  let fraction = z;
  for (let k = 60; k > 0; k--) fraction = z + k / fraction;
  return 1 - normalDensity(z) / fraction;
}

/** Inverse of Φ for 0 < p < 1, by Newton steps from a logistic start. */
export function normalQuantile(p: number): number {
  if (!(p > 0 && p < 1)) throw new RangeError('a probability between 0 and 1 is expected');
  if (p < 0.5) return -normalQuantile(1 - p);
  let z = Math.min(8, Math.log(p / (1 - p)) / 1.702);
  for (let i = 0; i < 60; i++) {
    const step = (normalCdf(z) - p) / Math.max(normalDensity(z), 1e-300);
    z -= Math.max(-1, Math.min(1, step));
    if (Math.abs(step) < 1e-13) break;
  }
  return z;
}

const LEVELS = 1 << 16;
let quantiles: Float32Array | null = null;

/** Standard normal numbers at the middles of 65 536 equal slices of probability: index with 16 random bits. */
export function normalLevels(): Float32Array {
  if (quantiles) return quantiles;
  const table = new Float32Array(LEVELS);
  for (let i = LEVELS / 2; i < LEVELS; i++) {
    const z = normalQuantile((i + 0.5) / LEVELS);
    table[i] = z;
    table[LEVELS - 1 - i] = -z;
  }
  return (quantiles = table);
}

/** A function of a standard normal number, tabulated on ±`LIMIT` and read by straight lines between. */
export interface NormalTable {
  readonly values: Float64Array;
  readonly scale: number;
}

const LIMIT = 6;
const CELLS = 4096;

export function tabulate(f: (z: number) => number): NormalTable {
  const values = new Float64Array(CELLS + 2);
  for (let i = 0; i < values.length; i++) values[i] = f(-LIMIT + (2 * LIMIT * i) / CELLS);
  return { values, scale: CELLS / (2 * LIMIT) };
}

export function readTable(table: NormalTable, z: number): number {
  const clipped = z < -LIMIT ? -LIMIT : z > LIMIT ? LIMIT : z;
  const at = (clipped + LIMIT) * table.scale;
  const cell = Math.floor(at);
  const low = table.values[cell];
  return low + (at - cell) * (table.values[cell + 1] - low);
}
