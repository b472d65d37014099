import { isSwung, stepFraction, type Grid, type Lines, type SongTime } from '../grid';
import type { Circle } from './circle';
import { EPSILON, FIRST_SPREAD, FORBIDDEN, LEAST_GAP, SHARE_WITHIN, type Progress } from './model';
import { lineAt } from './returning';
import { CircularEnvelope } from './envelope';
import type { Walk } from './walk-fit';

/** The shortest stretch in which a grid's lines repeat everywhere, in ticks. */
export function cycleTicks(grid: Grid, time: SongTime): number {
  const { ppq } = time.meter;
  const step = stepFraction(grid);
  let quarters = (step.num / step.den) * (isSwung(grid) ? 2 : 1);
  if (grid.mix) {
    const other = stepFraction(grid.mix);
    const common = step.den * other.den;
    quarters = leastCommon(step.num * other.den, other.num * step.den) / common;
  }
  const cycle = quarters * ppq;
  const divides = time.meter.pieces.every((p) => Math.abs(p.barTicks / cycle - Math.round(p.barTicks / cycle)) < 1e-9);
  return divides || grid.restart === 'song' ? cycle : Math.max(...time.meter.pieces.map((p) => p.barTicks));
}

function leastCommon(a: number, b: number): number {
  let [x, y] = [a, b];
  while (y) [x, y] = [y, x % y];
  return (a / x) * b;
}

/**
 * The cheapest path over drift bins. Each bin has two states: the chord takes the line nearest to its
 * place less the drift, or the next one on the other side. (After Cemgil & Kappen 2003, JAIR 18.)
 */
export function decodeWalk(
  axis: Circle,
  model: Walk,
  place: Float64Array,
  lines: Lines,
  unit: number,
  progress: Progress,
): Float64Array {
  const { bins, count, width, near, far, place: at } = axis;
  const forbidden = FORBIDDEN;
  const emission = 1 / (2 * model.sigma * model.sigma);
  let cost = new Float64Array(bins * 2);
  let next = new Float64Array(bins * 2);
  const from = new Int16Array(count * bins * 2);
  for (let k = 0; k < bins; k++) {
    const start = axis.drift[k] ** 2 / (2 * FIRST_SPREAD * FIRST_SPREAD);
    cost[k] = start + near[k] * near[k] * emission;
    cost[k + bins] = start + far[k] * far[k] * emission;
  }
  const resting = new CircularEnvelope(bins);
  for (let i = 1; i < count; i++) {
    const gap = at[i] - at[i - 1];
    const variance = model.tau * model.tau * Math.max(LEAST_GAP, gap);
    const reach = Math.min(bins >> 1, Math.max(1, Math.ceil((4 * Math.sqrt(variance)) / width)));
    const slope = (width * width) / (2 * variance);
    const least = gap > SHARE_WITHIN ? EPSILON : -EPSILON;
    const now = i * bins;
    const before = now - bins;
    if (reach > FAR_BINS && gap > (bins / 2) * width + 2 * MOST_APART) {
      // After a rest no order of lines is at stake: the cheapest way to each bin is a lower envelope of parabolas.
      const chosen = resting.from(cost, slope);
      for (let s = 0; s < 2 * bins; s++) {
        const k = s < bins ? s : s - bins;
        const mine = s < bins ? near[now + k] : far[now + k];
        next[s] = chosen.cost[k] + mine * mine * emission;
        from[now * 2 + s] = chosen.move[k];
      }
      [cost, next] = [next, cost];
      continue;
    }
    for (let s = 0; s < 2 * bins; s++) {
      const k = s < bins ? s : s - bins;
      const mine = s < bins ? near[now + k] : far[now + k];
      let best = Infinity;
      let chosen = 0;
      for (let d = -reach; d <= reach; d++) {
        // Drift goes from bin j to bin k by d bins, around the circle if need be.
        let j = k - d;
        if (j < 0) j += bins;
        else if (j >= bins) j -= bins;
        const travel = d * d * slope;
        // From one chord's line to the next one's, in steps.
        const apart = gap - d * width + mine;
        for (let side = 0; side < 2; side++) {
          const between = apart - (side === 0 ? near[before + j] : far[before + j]);
          let total = cost[j + side * bins] + travel;
          if (between < least) total += forbidden;
          if (total < best) {
            best = total;
            chosen = d * 2 + side;
          }
        }
      }
      next[s] = best + mine * mine * emission;
      from[now * 2 + s] = chosen;
    }
    [cost, next] = [next, cost];
    if ((i & 255) === 0) progress(i / count);
  }
  return trace(axis, from, cost, place, lines, unit);
}

/** Moves over more bins than this are looked for all at once. */
const FAR_BINS = 16;
/** No chord is further from its two lines than this, in steps. */
const MOST_APART = 4;

/** Follows the cheapest path back; turns of the circle add up on the way, and drifts become lines. */
function trace(
  axis: Circle,
  from: Int16Array,
  cost: Float64Array,
  place: Float64Array,
  lines: Lines,
  unit: number,
): Float64Array {
  const { bins, count, width } = axis;
  let state = 0;
  for (let s = 1; s < 2 * bins; s++) if (cost[s] < cost[state]) state = s;
  const moves = new Float64Array(count);
  const sides = new Uint8Array(count);
  let bin = state % bins;
  sides[count - 1] = state >= bins ? 1 : 0;
  for (let i = count - 1; i > 0; i--) {
    const chosen = from[i * bins * 2 + bin + sides[i] * bins];
    const side = chosen & 1;
    const d = (chosen - side) / 2;
    moves[i] = d;
    sides[i - 1] = side;
    bin = (((bin - d) % bins) + bins) % bins;
  }
  let drift = axis.drift[bin];
  return place.map((t, i) => {
    drift += moves[i] * width;
    return lineAt(t - drift * unit, sides[i] === 1, lines);
  });
}
