import { midway } from '../grid';
import { FIRST_NOTE_EARLY, NEAR_LINE, timeOf, type Part, type Song } from '../song';
import { addAmount, type Ticks } from '../time';
import { partLines } from './treat';

/**
 * Notes of a part that begin later than this, and before a tick, were early for the line at that tick; null where it is
 * neither one of the part's lines nor a bar with a line beside it.
 * @param side whether places are meant that were played, or those that the treatment makes of them
 */
export function earlyAfter(part: Part, at: Ticks, song: Song, side: 'played' | 'corrected'): Ticks | null {
  const { quantize, lag } = part.treatment;
  const { tempo, meter } = timeOf(song);
  const lines = partLines(part, song);
  const line = lines.nearest(at);
  // A groove or a shift moves the line of a bar a little.
  const isBar = Math.ceil(meter.barStartAt(at)) === at && Math.abs(line - at) * 4 < lines.gapAt(at);
  const middle = midway(isBar ? line : at, lines);
  if (middle >= at) return null;
  const asPlayed = side === 'played' || !part.on;
  const meant = asPlayed && lag.on ? addAmount(middle, lag.amount, tempo) : middle;
  const isMoved = side === 'played' && part.on && quantize.on && quantize.starts;
  return Math.max(meant, at - (isMoved ? FIRST_NOTE_EARLY : NEAR_LINE) * song.ppq);
}
