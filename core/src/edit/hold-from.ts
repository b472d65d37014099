import type { Part } from '../song';
import type { Ticks } from '../time';
import type { Building } from './building';
import { retimePart } from './retime';
import { earliest } from './shift';

/** Adds to a step what makes all that begins in a part before a tick, as a first note does that was early, begin there. */
export function holdFrom(building: Building, track: string, part: Part, least: Ticks, name: string): void {
  if (earliest(part) >= least) return;
  const held = retimePart(part, (tick) => Math.max(least, tick));
  building.add({ kind: 'parts', name, track, remove: [part.id], add: [held] });
}
