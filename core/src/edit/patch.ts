/** A thing with the index that it has in the list that it goes into. */
export interface Placed<T> {
  readonly at: number;
  readonly event: T;
}

/** A list without some of its things, by index, and with others at the indices that they are to have; null if it does not fit. */
export function patched<T>(list: readonly T[], remove: readonly number[], add: readonly Placed<T>[]): T[] | null {
  const gone = new Set(remove);
  if (gone.size < remove.length || remove.some((i) => i >= list.length)) return null;
  const kept = list.filter((_, i) => !gone.has(i));
  const places = new Map(add.map(({ at, event }) => [at, event]));
  const size = kept.length + add.length;
  if (places.size < add.length || add.some(({ at }) => at >= size)) return null;
  let next = 0;
  return Array.from({ length: size }, (_, i) => places.get(i) ?? kept[next++]);
}

/** The patch that takes such a one back. */
export function taken<T>(
  list: readonly T[],
  remove: readonly number[],
  add: readonly Placed<T>[],
): { remove: number[]; add: Placed<T>[] } {
  return { remove: add.map(({ at }) => at), add: remove.map((at) => ({ at, event: list[at] })) };
}
