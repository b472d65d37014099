/** Longest name of a song, a track, a recipe or a rule, in characters. */
const MOST = 200;

/** A name with more behind it, of 200 characters at most: a long name is cut, what stands behind it is not. */
export function longerTitle(name: string, more: string): string {
  return `${name.slice(0, MOST - more.length)}${more}`;
}

/** A name that is not taken, of 200 characters at most: `Swing 62.5`, then `Swing 62.5 (2)`. */
export function freeTitle(name: string, isTaken: (name: string) => boolean): string {
  let free = name;
  for (let n = 2; isTaken(free); n++) free = longerTitle(name, ` (${n})`);
  return free;
}
