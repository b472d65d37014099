/** `one note`, `3 notes`. */
export function counted(n: number, what: string): string {
  return n === 1 ? `one ${what}` : `${n} ${what}s`;
}
