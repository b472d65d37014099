import type { Lines } from '../grid';
import { emptyRow, fillRow, partOf, type Axis, type CostRow } from './axis';
import { EPSILON, FORBIDDEN, LEAST_GAP, SHARE_WITHIN } from './model';
import type { Returning } from './returning-fit';

/** What is left of a drift after a very long rest. */
const LEAST_RHO = 1e-3;

/**
 * The cheapest path of drifts and lines under a model (Viterbi 1967). Each bin has two states: the chord takes the
 * line nearest to its place less the drift, or the one on the other side of it.
 * @param place in ticks, ascending
 * @param costs what each line costs beside, in nats
 */
export function decodeReturning(
  model: Returning,
  whole: Axis,
  place: Float64Array,
  lines: Lines,
  unit: number,
  cycle: number,
  progress: (share: number) => void,
  costs?: (line: number) => number,
): Float64Array {
  const { sigma, spread, pull, lag } = model;
  const axis = partOf(whole, lag, spread).part;
  const { bins, width, low } = axis;
  const count = place.length;
  const emission = 1 / (2 * sigma * sigma);
  let cost = new Float64Array(bins * 2);
  let next = new Float64Array(bins * 2);
  let [row, before] = [emptyRow(axis), emptyRow(axis)];
  // From which bin, as its distance, and which side.
  const from = new Int16Array(count * bins * 2);
  for (let i = 0; i < count; i++) {
    [row, before] = [before, row];
    fillRow(row, axis, place[i], lines, unit, cycle, costs);
    if (i === 0) {
      for (let k = 0; k < bins; k++) {
        const start = ((low + k * width - lag) / spread) ** 2 / 2;
        cost[k] = start + row.near[k] * row.near[k] * emission + row.nearCost[k];
        cost[k + bins] = start + row.far[k] * row.far[k] * emission + row.farCost[k];
      }
      continue;
    }
    const gap = (place[i] - place[i - 1]) / unit;
    const rho = Math.max(LEAST_RHO, Math.exp(-pull * Math.max(LEAST_GAP, gap)));
    const variance = spread * spread * (1 - rho * rho) + (width * width) / 12;
    step({
      cost,
      next,
      from: from.subarray(i * bins * 2, (i + 1) * bins * 2),
      row,
      before,
      axis,
      gap,
      rho,
      variance,
      lag,
      emission,
    });
    [cost, next] = [next, cost];
    if ((i & 255) === 0) progress(i / count);
  }
  return trace(axis, from, cost, place, lines, unit);
}

interface Step {
  readonly cost: Float64Array;
  readonly next: Float64Array;
  readonly from: Int16Array;
  readonly row: CostRow;
  readonly before: CostRow;
  readonly axis: Axis;
  readonly gap: number;
  readonly rho: number;
  readonly variance: number;
  readonly lag: number;
  readonly emission: number;
}

function step({ cost, next, from, row, before, axis, gap, rho, variance, lag, emission }: Step): void {
  const { bins, width, low } = axis;
  const { near: lastNear, far: lastFar } = before;
  // After a long rest drifts from all over meet at the middle.
  const reach = Math.max(1, (3.5 * Math.sqrt(variance)) / width / rho);
  const slope = (width * width) / (2 * variance);
  const least = gap > SHARE_WITHIN ? EPSILON : -EPSILON;
  let cheapest = Infinity;
  for (let s = 0; s < 2 * bins; s++) if (cost[s] < cheapest) cheapest = cost[s];
  for (let k = 0; k < bins; k++) {
    // The bin from which the middle of the kernel comes here.
    const origin = ((low + k * width - lag) / rho + lag - low) / width;
    const first = Math.max(0, Math.ceil(origin - reach));
    const last = Math.min(bins - 1, Math.floor(origin + reach));
    const middle = Math.max(first - 1, Math.min(last, Math.floor(origin)));
    let bestNear = Infinity;
    let bestFar = Infinity;
    let fromNear = 0;
    let fromFar = 0;
    const near = row.near[k];
    const far = row.far[k];
    // Outwards from the middle: what comes from further away costs more, and nothing costs less than the cheapest.
    for (let way = -1; way <= 1; way += 2) {
      for (let j = way < 0 ? middle : middle + 1; j >= first && j <= last; j += way) {
        const away = (j - origin) * rho;
        const travel = away * away * slope;
        if (cheapest + travel > bestNear && cheapest + travel > bestFar) break;
        // From the line before to this one, but for the distances to both, in steps.
        const apart = gap - (k - j) * width;
        for (let side = 0; side < 2; side++) {
          const base = cost[j + side * bins] + travel;
          if (base > bestNear && base > bestFar) continue;
          const behind = apart - (side === 0 ? lastNear[j] : lastFar[j]);
          const a = behind + near < least ? base + FORBIDDEN : base;
          const b = behind + far < least ? base + FORBIDDEN : base;
          const state = j * 2 + side;
          // Of two that cost the same the first counts.
          if (a < bestNear || (a === bestNear && state < fromNear)) {
            bestNear = a;
            fromNear = state;
          }
          if (b < bestFar || (b === bestFar && state < fromFar)) {
            bestFar = b;
            fromFar = state;
          }
        }
      }
    }
    next[k] = bestNear + near * near * emission + row.nearCost[k];
    next[k + bins] = bestFar + far * far * emission + row.farCost[k];
    from[k] = fromNear;
    from[k + bins] = fromFar;
  }
}

function trace(
  axis: Axis,
  from: Int16Array,
  cost: Float64Array,
  place: Float64Array,
  lines: Lines,
  unit: number,
): Float64Array {
  const { bins, width, low } = axis;
  let state = 0;
  for (let s = 1; s < 2 * bins; s++) if (cost[s] < cost[state]) state = s;
  const line = new Float64Array(place.length);
  for (let i = place.length - 1; i >= 0; i--) {
    const bin = state % bins;
    line[i] = lineAt(place[i] - (low + bin * width) * unit, state >= bins, lines);
    const before = from[i * bins * 2 + state];
    state = (before >> 1) + (before & 1) * bins;
  }
  return line;
}

/** The line nearest to a place, or the one on its other side; the first of all lines where there is none. */
export function lineAt(meant: number, other: boolean, lines: Lines): number {
  const nearest = lines.nearest(Math.max(0, meant));
  if (!other) return nearest;
  const second = nearest === lines.before ? lines.after : lines.before;
  return second >= 0 ? second : nearest;
}
