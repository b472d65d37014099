/** One of a few or many to choose from. */
export interface Option {
  readonly value: string;
  readonly text: string;
}

/** Options whose text is their value. */
export function words(...values: readonly string[]): Option[] {
  return values.map((value) => ({ value, text: value }));
}
