import type { Part, TakeRound } from './song';
import { idNumber } from './ids';

type Takes = NonNullable<Part['takes']>;

/** All rounds of a part in the order in which they were recorded, before them what was put together; empty for none. */
export function roundsOf(part: Part): TakeRound[] {
  const { takes } = part;
  if (!takes) return [];
  return [...takes.others, chosenRound(part, takes)].sort(
    (a, b) => Number(b.compiled ?? false) - Number(a.compiled ?? false) || idNumber(a.id) - idNumber(b.id),
  );
}

/** The chosen one of a part's takes, with what the part holds now. */
export function chosenRound({ notes, events }: Part, { chosen }: Takes): TakeRound {
  return { ...chosen, notes, events };
}

/** A part that plays one of its takes. @param others the takes that wait */
export function withRound(part: Part, { notes, events, ...chosen }: TakeRound, others: readonly TakeRound[]): Part {
  return { ...part, notes, events, takes: { chosen, others } };
}
