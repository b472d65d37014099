import type { Panels } from '../kit/panels';

/** Names of the strips of this room among what can be open. */
export const SHAPE = 'shape';
export const SELECT = 'select';
export const TIDY = 'tidy';

/** Opens a strip of this room, or closes it: one takes the place of the other, so that the roll keeps its room. */
export function toggleStrip(panels: Panels, name: typeof SHAPE | typeof SELECT | typeof TIDY): void {
  for (const other of [SHAPE, SELECT, TIDY]) if (other !== name) panels.close(other);
  panels.toggle(name);
}
