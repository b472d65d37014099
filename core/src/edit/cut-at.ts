import { midway } from '../grid';
import { contentsOf, FIRST_NOTE_EARLY, NEAR_LINE, timeOf, type Part, type Song } from '../song';
import { addAmount, type Ticks } from '../time';
import { partLines } from '../treatment';
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
 * there is none, where it is neither one of the part's lines nor a bar with a line beside it, and in a part that plays a
 * sound file, which sounds up to the tick.
 */
function firstFor(part: Part, at: Ticks, song: Song): Ticks {
  if (part.audio) return at;
  const { quantize, lag } = part.treatment;
  const { tempo, meter } = timeOf(song);
  const lines = partLines(part, song);
  const line = lines.nearest(at);
  // A groove or a shift moves the line of a bar a little.
  const isBar = Math.ceil(meter.barStartAt(at)) === at && Math.abs(line - at) * 4 < lines.gapAt(at);
  const middle = midway(isBar ? line : at, lines);
  if (middle >= at) return at;
  const meant = lag.on ? addAmount(middle, lag.amount, tempo) : middle;
  const most = part.on && quantize.on && quantize.starts ? FIRST_NOTE_EARLY : NEAR_LINE;
  const after = Math.max(part.start - 1, meant, at - most * song.ppq);
  let first = at;
  for (const { notes } of contentsOf(part)) {
    for (const { start } of notes) if (start > after && start < first) first = start;
  }
  return first;
}
