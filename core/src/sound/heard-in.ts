import type { Ms } from '../time';
import type { Leg } from './conductor';
import type { MsSpan } from './score';

/**
 * Song time and round at a frame of the device. A turn of the loop that was not told of yet is reckoned: who is told of legs
 * may be busy, and what is shown or played in then is not to go beyond the loop.
 * @param frame not before the leg's; before it the leg's own beginning counts
 * @param loop the one that is on
 */
export function heardIn(
  leg: Leg,
  frame: number,
  frameRate: number,
  loop: MsSpan | null,
): { readonly ms: Ms; readonly round: number } {
  const ms = leg.ms + (Math.max(0, frame - leg.frame) * leg.msPerSecond) / frameRate;
  if (!loop || leg.ms >= loop.to || ms < loop.to) return { ms, round: leg.round };
  const length = loop.to - loop.from;
  const turns = Math.floor((ms - loop.from) / length);
  return { ms: ms - turns * length, round: leg.round + turns };
}
