/** The number in the id of a track, part, take or version; −1 where it has none. */
export function idNumber(id: string): number {
  const digits = /\d+$/.exec(id);
  return digits ? Number(digits[0]) : -1;
}
