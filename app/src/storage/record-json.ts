/** What is kept of a song, just as it is, as JSON; bytes go as lists of numbers. */
export function recordJson(record: unknown): string {
  return JSON.stringify(record, (_, value: unknown) => (value instanceof Uint8Array ? [...value] : value), 1);
}
