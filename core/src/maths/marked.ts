import { inBlocks } from './blocks';

/**
 * The indices of those of many that are marked, ascending. Asking `filter` of a typed array for its numbers makes an
 * object of each of them on the way.
 * @param marks 1 for each that is, 0 for the others
 */
export function marked(marks: Uint8Array): Int32Array {
  const found = new Int32Array(marks.length);
  let count = 0;
  inBlocks(marks.length, (from, to) => {
    let at = count;
    for (let i = from; i < to; i++) if (marks[i] === 1) found[at++] = i;
    count = at;
  });
  return found.slice(0, count);
}
