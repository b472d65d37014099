/** `one note`, `3 notes`. */
export function counted(n: number, what: string, many = `${what}s`): string {
  return n === 1 ? `one ${what}` : `${n} ${many}`;
}
