import type { Placed } from './placed';

/** What is low, loud and full comes again after so many beats. */
const CYCLES = [1, 2, 3, 4];
/** Salience is known no better than to this variance: its levels are steps. */
const STEP = 0.05;

/**
 * How much better what stands out is told by being on a beat or not, or by its place in the beat or in some beats, than
 * by chance, in nats: groups of their own mean against one for all, each mean paid for (Schwarz 1978, Annals of
 * Statistics 6:2).
 * @param salience of each onset
 */
export function cueNats({ at, width }: Placed, salience: Float64Array): number {
  const placed = [...at.keys()].filter((i) => at[i] >= 0);
  const mean = placed.reduce((sum, i) => sum + salience[i], 0) / placed.length;
  const all = placed.reduce((sum, i) => sum + (salience[i] - mean) ** 2 + STEP, 0);
  let best = 0;
  const groupings: readonly { size: number; of: (place: number) => number }[] = [
    { size: 2, of: (place) => (place % width === 0 ? 0 : 1) },
    ...CYCLES.map((cycle) => ({ size: cycle * width, of: (place: number) => place % (cycle * width) })),
  ];
  for (const { size, of } of groupings) {
    const sums = new Float64Array(size);
    const counts = new Float64Array(size);
    for (const i of placed) {
      const group = of(at[i]);
      sums[group] += salience[i] - mean;
      counts[group]++;
    }
    let [between, groups] = [0, 0];
    for (let g = 0; g < sums.length; g++) {
      if (counts[g] === 0) continue;
      between += sums[g] ** 2 / counts[g];
      groups++;
    }
    const gain = (placed.length / 2) * Math.log(all / (all - between));
    best = Math.max(best, gain - ((groups - 1) / 2) * Math.log(placed.length));
  }
  return best;
}
