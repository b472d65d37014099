/** Work that can be put down between its pieces, so that whoever does it can do something else meanwhile. It returns its result. */
export type Pieces<T> = Generator<void, T, void>;

/** Of a long list so many are one piece: a few milliseconds' work. */
const PIECE = 50_000;

/** Does all of some work at once. */
export function atOnce<T>(work: Pieces<T>): T {
  let next = work.next();
  while (!next.done) next = work.next();
  return next.value;
}

/** Goes through indices from 0, some at a time. @param act is given the first index, and the one behind the last */
export function* inPieces(count: number, act: (from: number, to: number) => void): Pieces<void> {
  for (let from = 0; from < count; from += PIECE) {
    act(from, Math.min(count, from + PIECE));
    yield;
  }
}
