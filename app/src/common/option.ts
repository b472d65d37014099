/** One of a few or many to choose from. */
export interface Option {
  readonly value: string;
  readonly text: string;
}

/** Options whose text is their value. */
export function words(...values: readonly string[]): Option[] {
  return values.map((value) => ({ value, text: value }));
}

/** How far starts go to their lines, in percent. */
export const STRENGTHS: readonly Option[] = [50, 60, 70, 80, 90, 100].map((n) => ({
  value: `${n}`,
  text: `${n} % of the way`,
}));
