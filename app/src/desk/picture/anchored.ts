import type { At } from '../kit/pointer';
import { RULER_HEIGHT, type Viewport } from '../kit/viewport';

/** Sums of px are exact to this part of one. */
const EXACT = 1e6;

/** The place where the pointer was pressed: it moves with the picture if that is scrolled or zoomed during the drag. */
export function anchored(at: At, view: Viewport): At {
  const { offsetX, offsetY } = at;
  const tick = view.tick(offsetX);
  const inRoll = offsetY >= RULER_HEIGHT && offsetY < view.rollBottom();
  const row = view.row(offsetY);
  return {
    ...at,
    get offsetX() {
      return exact(view.x(tick));
    },
    get offsetY() {
      return inRoll ? exact(view.rowY(row)) : offsetY;
    },
  };
}

function exact(px: number): number {
  return Math.round(px * EXACT) / EXACT;
}
