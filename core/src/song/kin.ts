import type { Note } from './note';

type Notes = readonly Note[];

/** How many notes two lists share, one by one the very same: at their fronts, and at their backs. */
interface Same {
  readonly front: number;
  readonly back: number;
}

/** What a list was made of, and what was made of the same one just before. Weak: no list is kept for another's sake. */
interface Origin extends Same {
  readonly of: WeakRef<Notes>;
  readonly before: WeakRef<Notes> | undefined;
}

const origins = new WeakMap<Notes, Origin>();
/** What was made of a list last. */
const latest = new WeakMap<Notes, WeakRef<Notes>>();

/** So far back a list is followed. */
const MOST_STEPS = 4;

/** A list that holds nearly the same notes as another, and where the two differ: outside, they hold the very same. */
export interface Kin {
  readonly list: Notes;
  readonly from: number;
  /** Behind the last one that may differ, in the other list. */
  readonly end: number;
  /** The same in this one. */
  readonly endHere: number;
}

/**
 * Tells that a list of notes was made of another one by changing some of it: what is known of the other need not be found
 * anew for all of its notes.
 * @returns the list
 */
export function madeOf<L extends Notes>(list: L, of: Notes, { front, back }: Same): L {
  origins.set(list, { of: new WeakRef(of), before: latest.get(of), front, back });
  latest.set(of, new WeakRef<Notes>(list));
  return list;
}

/**
 * Lists that hold nearly the same notes, the most alike first: what was made of the same list just before, as each step of
 * a drag is, then that list, and so on back.
 */
export function kinOf(list: Notes): Kin[] {
  const kin: Kin[] = [];
  let same: Same = { front: Infinity, back: Infinity };
  const add = (other: Notes, { front, back }: Same) => {
    const shorter = Math.min(list.length, other.length);
    const from = Math.min(front, shorter);
    // Where nothing differs the same notes are counted from both ends.
    const behind = Math.min(back, shorter - from);
    kin.push({ list: other, from, end: list.length - behind, endHere: other.length - behind });
  };
  let at: Notes | undefined = list;
  for (let step = 0; step < MOST_STEPS && at; step++) {
    const origin = origins.get(at);
    if (!origin) break;
    same = least(same, origin);
    const before = origin.before?.deref();
    const beside = before && origins.get(before);
    if (before && beside) add(before, least(same, beside));
    at = origin.of.deref();
    if (at) add(at, same);
  }
  return kin;
}

function least(a: Same, b: Same): Same {
  return { front: Math.min(a.front, b.front), back: Math.min(a.back, b.back) };
}
