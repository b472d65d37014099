import type { Ms } from '../time';
import { AGAINST_DRIFT, FIRST_SPREAD, LAG_SD, LEAST_GAP, SPREADS, type PlayerModel, type Wander } from './model';

const { exp, log, sqrt, PI } = Math;

/** How well a player's model explains offsets from known lines. */
export interface Evidence {
  readonly model: PlayerModel;
  /** Log density of the offsets (a step is the unit), less what a drift has to earn, in nats. */
  readonly nats: number;
}

/** Offsets of chords from the lines they took, in time order. */
export interface Offsets {
  /** In steps. */
  readonly offset: Float64Array;
  /** To the chord before, in steps; at least {@link LEAST_GAP}. */
  readonly gap: Float64Array;
  readonly stepMs: Ms;
}

/** @param place and @param line in ticks; @param unit ticks a step */
export function offsetsFrom(place: Float64Array, line: Float64Array, unit: number, stepMs: Ms): Offsets {
  return {
    offset: place.map((t, i) => (t - line[i]) / unit),
    gap: place.map((t, i) => (i === 0 ? LEAST_GAP : Math.max(LEAST_GAP, (t - place[i - 1]) / unit))),
    stepMs,
  };
}

/*
 * Known lines are held to models in ms and seconds, not in steps: a player does not become more uneven, and does not
 * wander more, because a coarser grid is looked at. So grids can be held against each other.
 */
const LEAST_SIGMA: Ms = 1;
/**
 * One whose time wanders is a person, whose chords scatter around that time by some ms at least; else a drift explains
 * each single chord.
 */
const LEAST_SIGMA_OF_WANDER: Ms = 4;
/** Neither can a chord be further from the player's time than this share of a step: it would belong to another line. */
const MOST_SIGMA = 0.4;
const WANDER_MS: readonly Ms[] = [8, 15, 30, 60, 110];
/** How long a drift lasts until most of it is gone, in seconds. */
const LASTS: readonly number[] = [2.5, 6, 15, 40];
/** Random walks, in ms after a second. */
const WALKS: readonly Ms[] = [3.5, 7, 14, 25];

function sigmasOf(stepMs: Ms): number[] {
  const sigmas: number[] = [];
  for (let ms = LEAST_SIGMA; ms < MOST_SIGMA * stepMs || sigmas.length === 0; ms *= Math.SQRT2)
    sigmas.push(ms / stepMs);
  return sigmas;
}

function wandersOf(stepMs: Ms): Wander[] {
  const seconds = stepMs / 1000;
  return [
    { kind: 'steady' },
    ...WANDER_MS.flatMap((ms) =>
      LASTS.map((last): Wander => ({ kind: 'returning', spread: ms / stepMs, pull: seconds / last })),
    ),
    ...WALKS.map((ms): Wander => ({ kind: 'walk', tau: (ms / stepMs) * sqrt(seconds) })),
  ];
}

/** The model of the table that explains offsets best. */
export function bestEvidence(offsets: Offsets): Evidence {
  const sigmas = sigmasOf(offsets.stepMs);
  let best: Evidence = { model: { sigma: sigmas[0], wander: { kind: 'steady' } }, nats: -Infinity };
  const middle = middleNats(offsets);
  const human = Math.max(
    0,
    sigmas.findIndex((s) => s * offsets.stepMs >= LEAST_SIGMA_OF_WANDER),
  );
  let at = Math.max(human, sigmas.length >> 1);
  for (const wander of wandersOf(offsets.stepMs)) {
    const least = wander.kind === 'steady' ? 0 : human;
    at = Math.max(at, least);
    // Along sigma the likelihood has one top: climb it from where the last one was.
    let here = evidenceOf(offsets, sigmas[at], wander);
    for (const way of [1, -1]) {
      for (let k = at + way; k >= least && k < sigmas.length; k += way) {
        const there = evidenceOf(offsets, sigmas[k], wander);
        if (there <= here) break;
        [here, at] = [there, k];
      }
    }
    const nats = here + (wander.kind === 'walk' ? middle : wander.kind === 'returning' ? wideNats(wander, offsets) : 0);
    if (nats > best.nats) best = { model: { sigma: sigmas[at], wander }, nats };
  }
  return best;
}

/**
 * A walk tells nothing of where its middle is, and whole cycles of the lines look alike; but players hear the click: of
 * walks that stay near, the one around it is meant. Of one that goes far the beginning says more.
 */
function middleNats({ offset, stepMs }: Offsets): number {
  const sorted = offset.slice().sort();
  const middle = sorted[sorted.length >> 1];
  const variance = offset.reduce((sum, d) => sum + (d - middle) ** 2, 0) / offset.length;
  const beyond = Math.max(0, variance - SPREADS[SPREADS.length - 1] ** 2);
  return -0.5 * (middle ** 2 / (FIRST_SPREAD ** 2 + (LAG_SD / stepMs) ** 2 + beyond));
}

/** Wide wanders are seldom: with a spread of a whole step the lines a step beside would explain a take as well. */
const WIDE: Ms = 40;

function wideNats({ spread }: { readonly spread: number }, { stepMs }: Offsets): number {
  return -0.5 * ((spread * stepMs) / WIDE) ** 2;
}

function evidenceOf(offsets: Offsets, sigma: number, wander: Wander): number {
  const filter = new Filter(offsets, sigma, wander);
  let nats = wander.kind === 'steady' ? 0 : -AGAINST_DRIFT;
  for (let i = 0; i < offsets.offset.length; i++) nats += filter.step(i);
  return nats;
}

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
export function smoothPath(offsets: Offsets, { sigma, wander }: PlayerModel): Path {
  const count = offsets.offset.length;
  const filter = new Filter(offsets, sigma, wander);
  // State before and after each observation: drift x, lag m, and their covariances.
  const before = new Float64Array(count * 5);
  const after = new Float64Array(count * 5);
  for (let i = 0; i < count; i++) {
    filter.step(i, before, after);
  }
  const drift = new Float64Array(count);
  const apart = new Float64Array(count);
  let [x, m, xx, xm, mm] = after.subarray(count * 5 - 5);
  const tell = (i: number) => {
    drift[i] = x + m;
    // The chord has a share in the path that it is held against (de Jong 1988, Biometrika 75:3).
    const share = (xx + 2 * xm + mm) / sigma ** 2;
    apart[i] = (offsets.offset[i] - drift[i]) / Math.max(LEAST_REST, 1 - share);
  };
  if (count > 0) tell(count - 1);
  for (let i = count - 2; i >= 0; i--) {
    const next = (i + 1) * 5;
    const rho = filter.rhoAt(i + 1);
    const [px, pm, pxx, pxm, pmm] = before.subarray(next, next + 5);
    const [ax, am, axx, axm, amm] = after.subarray(i * 5, i * 5 + 5);
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

const returns = new WeakMap<Float64Array, Map<number, Float64Array>>();

/** What is left of a drift after each gap. */
function returnsOf(gap: Float64Array, pull: number): Float64Array {
  let known = returns.get(gap);
  if (!known) returns.set(gap, (known = new Map()));
  let rho = known.get(pull);
  if (!rho) known.set(pull, (rho = gap.map((g) => exp(-pull * g))));
  return rho;
}

/** A Kalman filter over the player's drift and lag. */
class Filter {
  private x = 0;
  private m = 0;
  private xx: number;
  private xm = 0;
  private mm: number;
  private readonly rho: Float64Array | null;

  constructor(
    private readonly offsets: Offsets,
    private readonly sigma: number,
    private readonly wander: Wander,
  ) {
    const { kind } = wander;
    this.rho = kind === 'returning' ? returnsOf(offsets.gap, wander.pull) : null;
    this.xx = kind === 'returning' ? wander.spread ** 2 : kind === 'walk' ? FIRST_SPREAD ** 2 : 0;
    // Of a walk the lag is a part of where it begins.
    this.mm = kind === 'walk' ? 0 : (LAG_SD / offsets.stepMs) ** 2;
    if (kind === 'walk') this.xx += (LAG_SD / offsets.stepMs) ** 2;
  }

  rhoAt(i: number): number {
    return this.rho ? this.rho[i] : 1;
  }

  /** Takes one chord in and gives its log density; states go into the arrays where they are given. */
  step(i: number, before?: Float64Array, after?: Float64Array): number {
    const { wander } = this;
    if (i > 0 && wander.kind === 'returning') {
      const rho = this.rhoAt(i);
      this.x *= rho;
      this.xm *= rho;
      this.xx = rho * rho * this.xx + wander.spread ** 2 * (1 - rho * rho);
    } else if (i > 0 && wander.kind === 'walk') {
      this.xx += wander.tau ** 2 * this.offsets.gap[i];
    }
    if (before) this.keep(before, i);
    const gx = this.xx + this.xm;
    const gm = this.mm + this.xm;
    const variance = gx + gm + this.sigma ** 2;
    const error = this.offsets.offset[i] - this.x - this.m;
    this.x += (gx * error) / variance;
    this.m += (gm * error) / variance;
    this.xx -= (gx * gx) / variance;
    this.xm -= (gx * gm) / variance;
    this.mm -= (gm * gm) / variance;
    if (after) this.keep(after, i);
    return -0.5 * (log(2 * PI * variance) + (error * error) / variance);
  }

  private keep(into: Float64Array, i: number): void {
    into.set([this.x, this.m, this.xx, this.xm, this.mm], i * 5);
  }
}
