import { inBlocks } from './blocks';

/** Work that can be put down between its pieces, so that whoever does it can do something else meanwhile. It returns its result. */
export type Pieces<T> = Generator<void, T, void>;

/** Of a long list so many are one piece: a few milliseconds' work. */
const PIECE = 20_000;

/** Does all of some work at once. */
export function atOnce<T>(work: Pieces<T>): T {
  let next = work.next();
  while (!next.done) next = work.next();
  return next.value;
}

/**
 * Goes through indices, some at a time; those in short calls, as {@link inBlocks} does.
 * @param end the index behind the last @param act is given the first index, and the one behind the last @param begin the first index
 */
export function* inPieces(end: number, act: (from: number, to: number) => void, begin = 0): Pieces<void> {
  for (let from = begin; from < end; from += PIECE) {
    inBlocks(Math.min(end, from + PIECE), act, from);
    yield;
  }
}

/** Goes through many things without a list of them: `act` gets some at a time. */
export type Each<T> = (act: (some: readonly T[]) => void) => Pieces<void>;

/** Goes through a list. */
export function eachOf<T>(list: readonly T[]): Each<T> {
  return (act) => inPieces(list.length, (from, to) => act(list.slice(from, to)));
}

/** All things in a list. */
export function gathered<T>(each: Each<T>): T[] {
  const all: T[] = [];
  const add = (some: readonly T[]) => {
    for (const one of some) all.push(one);
  };
  atOnce(each(add));
  return all;
}
