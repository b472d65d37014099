import type { Note } from './note';

type Notes = readonly Note[];

/** How many notes two lists share, one by one the very same: at their fronts, and at their backs. */
interface Same {
  readonly front: number;
  readonly back: number;
}

/** What a list was made of, and what was made of the same list just before. Weak: this keeps no list alive. */
interface Origin extends Same {
  readonly of: WeakRef<Notes>;
  readonly before: WeakRef<Notes> | undefined;
}

const origins = new WeakMap<Notes, Origin>();
/** What was made of a list last. */
const latest = new WeakMap<Notes, WeakRef<Notes>>();

/** So far back a list is followed. */
const MOST_STEPS = 4;

/** A list that holds nearly the same notes as another one, and the stretch in which the two may differ. */
export interface Kin {
  readonly list: Notes;
  readonly from: number;
  /** Behind the last note that may differ, in the other list. */
  readonly end: number;
  /** Behind the last note that may differ, in this list. */
  readonly endHere: number;
}

/**
 * Tells that a list of notes was made from another one by changing some notes: what is known of the others holds still.
 * @returns the list
 */
export function madeOf<L extends Notes>(list: L, of: Notes, { front, back }: Same): L {
  origins.set(list, { of: new WeakRef(of), before: latest.get(of), front, back });
  latest.set(of, new WeakRef<Notes>(list));
  return list;
}

/**
 * Lists that hold nearly the same notes, the most alike first: what was made from the same list just before (the last step
 * of a drag), then that list itself, and so on back.
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

/** What is known of the list that is most like another, of those of which anything is known; with where the two differ. */
export function knownOfKin<V extends object>(
  known: WeakMap<Notes, V>,
  list: Notes,
): { readonly kin: Kin; readonly value: V } | null {
  for (const kin of kinOf(list)) {
    const value = known.get(kin.list);
    if (value) return { kin, value };
  }
  return null;
}

function least(a: Same, b: Same): Same {
  return { front: Math.min(a.front, b.front), back: Math.min(a.back, b.back) };
}
