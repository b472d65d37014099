import type { Part, TakeRound } from './song';
import { idNumber } from './ids';

/** All rounds of a part in the order in which they were recorded, before them what was put together; empty for none. */
export function roundsOf({ takes, notes, events }: Part): TakeRound[] {
  if (!takes) return [];
  return [...takes.others, { ...takes.chosen, notes, events }].sort(
    (a, b) => Number(b.compiled ?? false) - Number(a.compiled ?? false) || idNumber(a.id) - idNumber(b.id),
  );
}
