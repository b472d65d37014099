import type { Ms } from '../time';
import type { Lag } from './lag';

/** Lags of one song's tracks lie around a common one with this standard deviation; it itself around 0. */
const TRACK_SD: Ms = 12;
const COMMON_SD: Ms = 25;
/** A track may lie by itself: more than this it costs no track, in nats. */
const MOST_COST = 4;

/**
 * The lags of a song's tracks, found together. Each is known up to a gap between its lines only; of what it may be, the
 * one counts that agrees with the others: tracks of one song were recorded by the same way more often than not. A
 * track whose lag is certain keeps it, whatever the others say.
 * @param lags a track each; null where none was found
 * @returns a lag each, in ms
 */
export function lagsTogether(lags: readonly (Lag | null)[]): (Ms | null)[] {
  const choices = lags.map((lag): Choice[] => {
    if (!lag) return [];
    return lag.other === null
      ? [{ ms: lag.ms, nats: 0 }]
      : [
          { ms: lag.ms, nats: 0 },
          { ms: lag.other, nats: AGAINST_OTHER },
        ];
  });
  let best = { cost: Infinity, common: 0 };
  for (const common of [0, ...choices.flat().map((c) => c.ms)]) {
    let cost = common ** 2 / (2 * COMMON_SD ** 2);
    for (const list of choices) if (list.length > 0) cost += Math.min(...list.map((c) => costOf(c, common)));
    if (cost < best.cost) best = { cost, common };
  }
  return choices.map((list) => {
    if (list.length === 0) return null;
    return list.reduce((a, b) => (costOf(b, best.common) < costOf(a, best.common) ? b : a)).ms;
  });
}

/** What a track's lag may be, and what speaks against it. */
interface Choice {
  readonly ms: Ms;
  readonly nats: number;
}

/** The lag that was found first fits better by itself, in nats. */
const AGAINST_OTHER = 3;

function costOf({ ms, nats }: Choice, common: Ms): number {
  return nats + Math.min(MOST_COST, (ms - common) ** 2 / (2 * TRACK_SD ** 2)) + ms ** 2 / (2 * (2 * COMMON_SD) ** 2);
}
