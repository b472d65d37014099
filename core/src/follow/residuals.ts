import type { Ms } from '../time';
import { logDensity } from './gains';
import { AGAINST_DRIFT, FIRST_SPREAD, LAG_SD, SPREADS, type PlayerModel, type Wander } from './model';
import type { Offsets } from './offsets';

const { sqrt } = Math;

/** How well a player's model explains offsets from known lines. */
export interface Evidence {
  readonly model: PlayerModel;
  /** Log density of the offsets (a step is the unit), less what a drift has to earn, in nats. */
  readonly nats: number;
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
  return logDensity(offsets, { sigma, wander }) - (wander.kind === 'steady' ? 0 : AGAINST_DRIFT);
}
