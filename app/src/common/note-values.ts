import { GRID_VALUES } from '@early-sparrow/core/grid';
import type { Option } from './option';

/** The note values that a beat of a meter can be. */
export const NOTE_VALUES: readonly Option[] = GRID_VALUES.map((value) => ({ value: `${value}`, text: `${value}` }));
