import type { Note } from './note';

type Notes = readonly Note[];

/** What a list was made of, and what was made of the same one just before. Weak: no list is kept for another's sake. */
interface Origin {
  readonly of: WeakRef<Notes>;
  readonly before: WeakRef<Notes> | undefined;
}

const origins = new WeakMap<Notes, Origin>();
/** What was made of a list last. */
const latest = new WeakMap<Notes, WeakRef<Notes>>();

/** So far back a list is followed. */
const MOST_STEPS = 4;

/**
 * Tells that a list of notes was made of another one by changing some of it: what is known of the other need not be found
 * anew for all of its notes.
 * @returns the list
 */
export function madeOf<L extends Notes>(list: L, of: Notes): L {
  origins.set(list, { of: new WeakRef(of), before: latest.get(of) });
  latest.set(of, new WeakRef<Notes>(list));
  return list;
}

/**
 * Lists that hold nearly the same notes, the most alike first: what was made of the same list just before, as each step of
 * a drag is, then that list, and so on back.
 */
export function kinOf(list: Notes): Notes[] {
  const kin: Notes[] = [];
  let at: Notes | undefined = list;
  for (let step = 0; step < MOST_STEPS && at; step++) {
    const origin: Origin | undefined = origins.get(at);
    const before = origin?.before?.deref();
    at = origin?.of.deref();
    if (before) kin.push(before);
    if (at) kin.push(at);
  }
  return kin;
}

/** Where two lists differ: in front of `from`, and behind the two ends, they hold the very same notes. */
export interface Difference {
  readonly from: number;
  /** Behind the last one that differs, in either list. */
  readonly end: number;
  readonly endBefore: number;
}

export function difference(before: Notes, now: Notes): Difference {
  const shorter = Math.min(before.length, now.length);
  let from = 0;
  while (from < shorter && before[from] === now[from]) from++;
  let same = 0;
  while (same < shorter - from && before[before.length - 1 - same] === now[now.length - 1 - same]) same++;
  return { from, end: now.length - same, endBefore: before.length - same };
}
