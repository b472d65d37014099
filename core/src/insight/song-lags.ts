import type { Ms } from '../time';
import { readAs, type Analysis, type MeasuredReading } from './analyse';

/** Lags of one song's tracks lie around a common one with this standard deviation; it itself around 0. */
const TRACK_SD: Ms = 12;
const COMMON_SD: Ms = 25;
/** A track may lie by itself: more than this it costs no track, in nats. */
const MOST_COST = 4;

/**
 * The analyses of a song's tracks, each by the reading that agrees with the others: tracks of one song were recorded by
 * the same way more often than not. A track whose lag is certain keeps it, whatever the others say, and a track that
 * takes another lag takes the grid that goes with it.
 * @param analyses a track each; null where there is none
 */
export function readTogether<A extends Analysis | null>(analyses: readonly A[]): A[] {
  const choices = analyses.map((analysis): Choice[] => {
    if (!analysis?.lag) return [];
    const others = analysis.readings.map((r) => ({
      ms: r.lag.ms,
      nats: Math.max(AGAINST_OTHER, r.behind * Math.LN2),
      reading: r,
    }));
    return [{ ms: analysis.lag.ms, nats: 0, reading: null }, ...others];
  });
  let best = { cost: Infinity, common: 0 };
  for (const common of [0, ...choices.flat().map((c) => c.ms)]) {
    let cost = common ** 2 / (2 * COMMON_SD ** 2);
    for (const list of choices) if (list.length > 0) cost += Math.min(...list.map((c) => costOf(c, common)));
    if (cost < best.cost) best = { cost, common };
  }
  return analyses.map((analysis, i) => {
    if (!analysis || choices[i].length === 0) return analysis;
    const { reading } = choices[i].reduce((a, b) => (costOf(b, best.common) < costOf(a, best.common) ? b : a));
    return reading ? (readAs(analysis, reading) as A) : analysis;
  });
}

/** What was found first fits better by itself, in nats: other tracks have to speak for another reading. */
const AGAINST_OTHER = 3;

/** What a track's lag may be, and what speaks against it. */
interface Choice {
  readonly ms: Ms;
  readonly nats: number;
  /** Null for the best. */
  readonly reading: MeasuredReading | null;
}

function costOf({ ms, nats }: Choice, common: Ms): number {
  return nats + Math.min(MOST_COST, (ms - common) ** 2 / (2 * TRACK_SD ** 2));
}
