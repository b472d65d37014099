/** A sample is taken in so many blocks from all over a take. */
const BLOCKS = 4;

/** Index ranges of at most `most` chords, each from its first to before its last; all of them where there are no more. */
export function sampleBlocks(count: number, most: number): (readonly [number, number])[] {
  if (count <= most) return [[0, count]];
  const length = Math.floor(most / BLOCKS);
  return Array.from({ length: BLOCKS }, (_, b) => {
    const from = Math.round((b * (count - length)) / (BLOCKS - 1));
    return [from, from + length] as const;
  });
}
