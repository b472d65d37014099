import type { Note, OwnSet } from '../song';

/** What goes out of a part, what comes in, and what changes in it. */
export interface PartChange {
  /** Own settings that the part has from now on, in place of those it has. */
  readonly sets?: readonly OwnSet[];
  readonly changed?: readonly Note[];
  readonly add?: readonly Note[];
  readonly remove?: readonly number[];
}
