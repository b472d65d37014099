import type { Part, TakeRound } from './song';
import { idNumber } from './ids';

/** All rounds of a part in the order in which they were recorded; empty where it has none. */
export function roundsOf({ takes, notes, events }: Part): TakeRound[] {
  if (!takes) return [];
  return [...takes.others, { ...takes.chosen, notes, events }].sort((a, b) => idNumber(a.id) - idNumber(b.id));
}
