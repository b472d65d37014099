import type { Panels } from '../kit/panels';

/** Names of the strips of handwork among what can be open. */
export const SHAPE = 'shape';
export const SELECT = 'select';
export const TIDY = 'tidy';
export const RULES = 'rules';

type Strip = typeof SHAPE | typeof SELECT | typeof TIDY | typeof RULES;

/** Opens such a strip, or closes it: one takes the place of the other, so that the roll keeps its room. */
export function toggleStrip(panels: Panels, name: Strip): void {
  for (const other of [SHAPE, SELECT, TIDY, RULES]) if (other !== name) panels.close(other);
  panels.toggle(name);
}
