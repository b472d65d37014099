import { contentsOf, type Part, type Song } from '../song';
import type { Ticks } from '../time';
import { earlyAfter } from '../treatment';
import type { Building } from './building';

/**
 * Adds the cut of a part at a tick to a step. At a line, notes that were played early for it go with it, to the right.
 * @returns the id of the right part
 */
export function cutAt(building: Building, part: Part, at: Ticks, name: string): string {
  const id = building.id();
  const from = firstFor(part, at, building.song);
  building.add({ kind: 'part-cut', name, part: part.id, at, id, ...(from < at ? { from } : {}) });
  return `p${id}`;
}

/**
 * Where the first note of a part or its takes begins that was played early for the line at a tick; the tick itself where
 * there is none, where no line is, and in a part that plays a sound file, which sounds up to the tick.
 */
function firstFor(part: Part, at: Ticks, song: Song): Ticks {
  const after = part.audio ? null : earlyAfter(part, at, song, 'played');
  if (after === null) return at;
  let first = at;
  for (const { notes } of contentsOf(part)) {
    for (const { start } of notes) if (start > after && start >= part.start && start < first) first = start;
  }
  return first;
}
