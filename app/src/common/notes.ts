/** Notes shorter than this many ticks (a 1/128 note) hardly sound. */
export function minLength(ppq: number): number {
  return ppq / 32;
}
