import type { EditProblem } from '../edit';

/** Why notes cannot be shaped as is wished: a sentence that says what to do. */
export function problem(text: string): EditProblem {
  return { problem: text };
}
