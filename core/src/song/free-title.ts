/** Longest name of a recipe or a rule, in characters. */
const MOST = 200;

/** A name that is not taken, of 200 characters at most: `Swing 62.5`, then `Swing 62.5 (2)`. */
export function freeTitle(name: string, isTaken: (name: string) => boolean): string {
  let free = name;
  for (let n = 2; isTaken(free); n++) {
    const number = ` (${n})`;
    free = `${name.slice(0, MOST - number.length)}${number}`;
  }
  return free;
}
