import { isSwung, stepFraction, stepTicks, type Grid, type Lines, type SongTime } from '../grid';
import { driftAxis, type DriftAxis } from './drift-axis';
import { fitDrift } from './follow-fit';
import { FIRST_SPREAD, type PlayerModel, type Progress } from './follow-model';

/** Lines that were chosen while following a player's drift. */
export interface Followed {
  /** Line of each chord in ticks. */
  readonly line: Float64Array;
  readonly model: PlayerModel;
}

/** Two chords may share a line only if they are this close (flams, double triggers), in steps. */
const SHARE_WITHIN = 0.5;
/** Cost of what should not happen but cannot be ruled out, in nats. */
const FORBIDDEN = 40;
const EPSILON = 1e-6;

/**
 * Chooses the lines of all chords together, so that a player's drift against the click does not
 * put whole bars on the wrong lines. Minimises
 * `Σ (t − δ − ℓ)²/2σ² + (δ − δ′)²/(2τ²·gap)` over drifts δ and lines ℓ by dynamic programming on a
 * circular drift axis; σ and τ are fitted from the notes first. Where steady playing explains them
 * as well (τ = 0), each chord takes its nearest line.
 * Lines never go back. (After Cemgil & Kappen 2003, JAIR 18, and Desain & Honing 1989, Computer Music Journal 13:3.)
 * @param place chords' places in ticks, ascending
 */
export function followLines(
  place: Float64Array,
  lines: Lines,
  time: SongTime,
  grid: Grid,
  progress?: Progress,
): Followed {
  const nearest = place.map((t) => lines.nearest(t));
  if (place.length < 2) return { line: nearest, model: { sigma: 0.1, tau: 0 } };
  const unit = stepTicks({ value: grid.value, shape: 'straight' }, time.meter.ppq);
  const axis = driftAxis(place, lines, unit, cycleTicks(grid, time) / unit);
  const model = fitDrift(axis, (share) => progress?.(share * 0.6));
  if (model.tau === 0) return { line: nearest, model };
  return { line: bestLines(axis, model, lines, unit, (share) => progress?.(0.6 + share * 0.4)), model };
}

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
 * place less the drift, or the next one on the other side.
 */
function bestLines(axis: DriftAxis, model: PlayerModel, lines: Lines, unit: number, progress: Progress): Float64Array {
  const { bins, count, width, near, far, place } = axis;
  const emission = 1 / (2 * model.sigma * model.sigma);
  let cost = new Float64Array(bins * 2);
  let next = new Float64Array(bins * 2);
  const from = new Int16Array(count * bins * 2);
  for (let k = 0; k < bins; k++) {
    const start = axis.drift[k] ** 2 / (2 * FIRST_SPREAD * FIRST_SPREAD);
    cost[k] = start + near[k] * near[k] * emission;
    cost[k + bins] = start + far[k] * far[k] * emission;
  }
  for (let i = 1; i < count; i++) {
    const gap = place[i] - place[i - 1];
    const variance = model.tau * model.tau * Math.max(0.25, gap);
    const reach = Math.min(bins >> 1, Math.max(1, Math.ceil((4 * Math.sqrt(variance)) / width)));
    const slope = (width * width) / (2 * variance);
    const now = i * bins;
    const before = now - bins;
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
          if (between < -EPSILON || (between < EPSILON && gap > SHARE_WITHIN)) total += FORBIDDEN;
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
  return trace(axis, from, cost, lines, unit);
}

/** Follows the cheapest path back and turns drifts into lines; turns of the circle add up on the way. */
function trace(axis: DriftAxis, from: Int16Array, cost: Float64Array, lines: Lines, unit: number): Float64Array {
  const { bins, count, width, place } = axis;
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
  const line = new Float64Array(count);
  let drift = axis.drift[bin];
  for (let i = 0; i < count; i++) {
    drift += moves[i] * width;
    const meant = Math.max(0, (place[i] - drift) * unit);
    const nearest = lines.nearest(meant);
    line[i] = nearest;
    if (sides[i] === 1) {
      const other = nearest === lines.before ? lines.after : lines.before;
      if (other >= 0) line[i] = other;
    }
  }
  return line;
}
