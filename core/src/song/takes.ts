import type { Part, TakeRound } from './song';
import { idNumber } from './ids';

/** A part whose rounds that are not chosen go through a change, each as the part's own notes and events do. */
export function withRounds(
  part: Part,
  change: (round: Pick<TakeRound, 'notes' | 'events'>) => Partial<TakeRound>,
): Part {
  const { takes } = part;
  return takes ? { ...part, takes: { ...takes, others: takes.others.map((r) => ({ ...r, ...change(r) })) } } : part;
}

/** All rounds of a part in the order in which they were recorded; empty where it has none. */
export function roundsOf({ takes, notes, events }: Part): TakeRound[] {
  if (!takes) return [];
  return [...takes.others, { ...takes.chosen, notes, events }].sort((a, b) => idNumber(a.id) - idNumber(b.id));
}
