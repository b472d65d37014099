/** Some ids: which are among them, and how many. */
export interface IdSet {
  readonly size: number;
  has(id: number): boolean;
}

/** The ids of a song are counted up, so they are dense: a byte each is made and asked many times as fast as a set. */
const SPARSE = 16;

/** @param ids whole numbers from 0; those that are named twice count once */
export function idSet(ids: readonly number[]): IdSet {
  let largest = -1;
  for (const id of ids) if (id > largest) largest = id;
  if (!(largest < 1000 + SPARSE * ids.length)) return new Set(ids);
  const marks = new Uint8Array(largest + 1);
  let size = 0;
  for (const id of ids) {
    if (marks[id] === 0) size++;
    marks[id] = 1;
  }
  return { size, has: (id) => marks[id] === 1 };
}
