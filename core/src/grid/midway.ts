import type { Ticks } from '../time';
import type { Lines } from './lines';

/** A border this near to a line lies on it, in ticks. */
const ON_LINE = 1;

/**
 * Where what is meant for a border, or for what is after it, begins: halfway between the line on it and the one before.
 * A border that lies on no line is a place of its own, and is given back as it is.
 */
export function midway(border: Ticks, lines: Lines): Ticks {
  const line = lines.nearest(border);
  if (Math.abs(line - border) > ON_LINE) return border;
  lines.locate(line - ON_LINE / 2);
  const { before } = lines;
  return before >= 0 && before < line ? (before + line) / 2 : 0;
}

interface Ends {
  readonly from: Ticks;
  readonly to: Ticks;
}

/** A stretch of the song as far as the notes reach that are meant for it: both ends halfway between lines. */
export function byLines({ from, to }: Ends, lines: Lines): Ends {
  return { from: midway(from, lines), to: midway(to, lines) };
}
