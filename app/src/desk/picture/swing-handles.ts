import { stepTicks, type Lines } from '@early-sparrow/core/grid';
import { meterOf, type Song, type Treatment } from '@early-sparrow/core/song';
import { KEYS_WIDTH, type Viewport } from '../kit/viewport';

/** Off-beats closer together than this many px have no handles. */
const CLOSEST = 26;

/** An off-beat line with a handle in the ruler; ticks. */
export interface SwingHandle {
  readonly line: number;
  /** Where its pair of steps begins. */
  readonly pair: number;
}

/** The off-beat lines in view that can be dragged to another swing; none for tuplets, grooves, or far away. */
export function swingHandles(view: Viewport, lines: Lines, treatment: Treatment, song: Song): SwingHandle[] {
  const { grid, groove } = treatment.quantize;
  const step = stepTicks(grid, song.ppq);
  if (groove || typeof grid.shape !== 'string' || grid.mix || 2 * step * view.scale() < CLOSEST) return [];
  const meter = meterOf(song);
  const handles: SwingHandle[] = [];
  for (const line of lines.between(Math.max(0, view.left()), view.right())) {
    if (view.x(line) < KEYS_WIDTH) continue;
    const bar = grid.restart === 'song' ? 0 : meter.barStartAt(line + 0.5);
    const pair = Math.floor((line - bar) / (2 * step) + 1e-9) * 2 * step + bar;
    if (line - pair > step * 0.4) handles.push({ line, pair });
  }
  return handles;
}
