import { inOrder, type Bounds, type ConditionId } from './conditions';
import type { Condition, Rule } from './rule';

/** Kinds of which a note can pass only one. */
const EITHER: readonly (readonly [ConditionId, ConditionId])[] = [
  ['beat', 'off-beat'],
  ['downbeat', 'off-beat'],
  ['backbeat', 'off-beat'],
  ['downbeat', 'backbeat'],
  ['early', 'late'],
];

/** Why no note can pass all conditions of a rule, in a sentence; null where some can. */
export function contradiction({ match, when }: Pick<Rule, 'match' | 'when'>): string | null {
  if (match === 'any') return null;
  for (const [i, a] of when.entries()) {
    for (const b of when.slice(i + 1)) {
      if (isEither(a, b)) return 'No note can pass both conditions. Remove one, or let any of them do.';
    }
  }
  return null;
}

function isEither(a: Condition, b: Condition): boolean {
  const [aNot, bNot] = [a.not === true, b.not === true];
  if (a.is === b.is) {
    if (aNot !== bNot) return JSON.stringify(a.with) === JSON.stringify(b.with);
    if (aNot) return false;
    if (a.is === 'pitch' || a.is === 'velocity') return apart(a.with, b.with);
    return a.is === 'drum' && a.with['which'] !== b.with['which'];
  }
  if (aNot || bNot) return false;
  if (EITHER.some(([x, y]) => (a.is === x && b.is === y) || (a.is === y && b.is === x))) return true;
  const [short, long] = a.is === 'shorter' ? [a, b] : [b, a];
  return short.is === 'shorter' && long.is === 'longer' && Number(short.with['than']) <= Number(long.with['than']);
}

function apart(a: unknown, b: unknown): boolean {
  const [[al, ah], [bl, bh]] = [inOrder(a as Bounds), inOrder(b as Bounds)];
  return ah < bl || bh < al;
}
