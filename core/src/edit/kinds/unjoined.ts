import { byPlace, changedNote, cutContent, type Content, type Note, type Part } from '../../song';
import type { Given, Mend } from './join-edits';

/** The two sides of a joined part as a cut gives them, without the exceptions that the join gave. */
export function unjoined(joined: Content, at: number, given: Given): readonly [Content, Content] {
  const [left, right] = cutContent(joined, at);
  const was = new Map(given.renamed);
  const bare = (note: Note, played: boolean, own: string | null): Note => {
    const { exception } = note;
    if (exception?.kind === 'as-played' && played) return changedNote(note, { exception: undefined });
    if (exception?.kind !== 'own') return note;
    if (exception.set === own) return changedNote(note, { exception: undefined });
    const set = was.get(exception.set);
    return set === undefined ? note : changedNote(note, { exception: { kind: 'own', set } });
  };
  return [
    given.leftPlayed ? { ...left, notes: left.notes.map((n) => bare(n, true, null)) } : left,
    { ...right, notes: right.notes.map((n) => bare(n, given.rightPlayed, given.own)) },
  ];
}

/** What makes one content of another; in proportion to how they differ. */
export function mendOf(from: Content, to: Pick<Part, 'notes' | 'events'>): Mend {
  const known = new Map(from.notes.map((n) => [n.id, n]));
  const there = new Set(to.notes.map((n) => n.id));
  const add = to.notes.filter((n) => !same(known.get(n.id), n));
  const remove = from.notes.filter((n) => !there.has(n.id)).map((n) => n.id);
  const [a, b] = [from.events, to.events];
  const most = Math.min(a.length, b.length);
  let start = 0;
  while (start < most && same(a[start], b[start])) start++;
  let end = 0;
  while (end < most - start && same(a[a.length - 1 - end], b[b.length - 1 - end])) end++;
  const changed = add.filter((n) => known.has(n.id)).map((n) => n.id);
  return {
    remove: [...remove, ...changed],
    add,
    from: start,
    gone: a.length - start - end,
    events: b.slice(start, b.length - end),
  };
}

export function mended({ notes, events }: Content, { remove, add, from, gone, events: come }: Mend): Content {
  const without = new Set(remove);
  const left = without.size > 0 ? notes.filter((n) => !without.has(n.id)) : notes;
  return {
    notes: add.length > 0 ? [...left, ...add].sort(byPlace) : left,
    events: [...events.slice(0, from), ...come, ...events.slice(from + gone)],
  };
}

function same(a: object | undefined, b: object): boolean {
  return a === b || JSON.stringify(a) === JSON.stringify(b);
}
