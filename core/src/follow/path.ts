import { gainsFor } from './gains';
import type { PlayerModel } from './model';
import type { Offsets } from './offsets';

/** Where the player's time was. */
export interface Path {
  /** Lag and drift together at each chord, in steps. */
  readonly drift: Float64Array;
  /**
   * The lag: the median of that, in steps. The middle that the model comes back to is less sure: half of a slow breath
   * more on one side moves it.
   */
  readonly lag: number;
  /**
   * How far each chord is from where the other chords put the player's time, in steps; early is negative. The path itself
   * lies nearer to the chord, which it goes by too.
   */
  readonly apart: Float64Array;
}

/**
 * The most probable path of a player's time under a model, by the Kalman filter and the smoother of Rauch, Tung &
 * Striebel (1965, AIAA Journal 3:8).
 */
export function smoothPath(offsets: Offsets, model: PlayerModel): Path {
  const { offset } = offsets;
  const count = offset.length;
  const gains = gainsFor(offsets, model);
  const { left, before } = gains;
  // Drift and lag before and after each chord is taken in.
  const state = new Float64Array(count * 4);
  let [x, m] = [0, 0];
  for (let i = 0; i < count; i++) {
    if (left && i > 0) x *= left[i];
    state[i * 4] = x;
    state[i * 4 + 1] = m;
    const error = offset[i] - x - m;
    x += gains.drift[i] * error;
    m += gains.lag[i] * error;
    state[i * 4 + 2] = x;
    state[i * 4 + 3] = m;
  }
  /** Covariances after a chord is taken in: of the drift, of both, of the lag. */
  const after = (i: number): [number, number, number] => {
    const [pxx, pxm, pmm] = [before[i * 3], before[i * 3 + 1], before[i * 3 + 2]];
    const [gx, gm] = [pxx + pxm, pmm + pxm];
    return [pxx - gx * gains.drift[i], pxm - gx * gains.lag[i], pmm - gm * gains.lag[i]];
  };
  const drift = new Float64Array(count);
  const apart = new Float64Array(count);
  let [xx, xm, mm] = count > 0 ? after(count - 1) : [0, 0, 0];
  const tell = (i: number) => {
    drift[i] = x + m;
    // The chord has a share in the path that it is held against (de Jong 1988, Biometrika 75:3).
    const share = (xx + 2 * xm + mm) / model.sigma ** 2;
    apart[i] = (offset[i] - drift[i]) / Math.max(LEAST_REST, 1 - share);
  };
  if (count > 0) tell(count - 1);
  for (let i = count - 2; i >= 0; i--) {
    const next = i + 1;
    const rho = left ? left[next] : 1;
    const [px, pm] = [state[next * 4], state[next * 4 + 1]];
    const [pxx, pxm, pmm] = [before[next * 3], before[next * 3 + 1], before[next * 3 + 2]];
    const [ax, am] = [state[i * 4 + 2], state[i * 4 + 3]];
    const [axx, axm, amm] = after(i);
    // Gain = P Fᵀ P₋⁻¹ with F = diag(ρ, 1); of the drift alone or the lag alone where there is no other.
    const det = pxx * pmm - pxm * pxm;
    const isBoth = det > 1e-18;
    const ixx = isBoth ? pmm / det : pxx > 1e-12 ? 1 / pxx : 0;
    const ixm = isBoth ? -pxm / det : 0;
    const imm = isBoth ? pxx / det : pxx <= 1e-12 && pmm >= 1e-12 ? 1 / pmm : 0;
    const gxx = axx * rho * ixx + axm * ixm;
    const gxm = axx * rho * ixm + axm * imm;
    const gmx = axm * rho * ixx + amm * ixm;
    const gmm = axm * rho * ixm + amm * imm;
    const [dx, dm, dxx, dxm, dmm] = [x - px, m - pm, xx - pxx, xm - pxm, mm - pmm];
    x = ax + gxx * dx + gxm * dm;
    m = am + gmx * dx + gmm * dm;
    xx = axx + gxx * gxx * dxx + 2 * gxx * gxm * dxm + gxm * gxm * dmm;
    xm = axm + gxx * gmx * dxx + (gxx * gmm + gxm * gmx) * dxm + gxm * gmm * dmm;
    mm = amm + gmx * gmx * dxx + 2 * gmx * gmm * dxm + gmm * gmm * dmm;
    tell(i);
  }
  return { drift, lag: drift.slice().sort()[count >> 1], apart };
}

/** The least share of a chord that is its own: one among long rests tells nothing but itself. */
const LEAST_REST = 1e-3;
