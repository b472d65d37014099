import type { Exception, Note } from '../song';

/** The notes of a part that was off: they sound as played, whatever the treatment is. */
export function asPlayed(notes: readonly Note[]): Note[] {
  const exception: Exception = { kind: 'as-played' };
  return notes.map((n) => (n.exception?.kind === 'dropped' ? n : { ...n, exception }));
}
