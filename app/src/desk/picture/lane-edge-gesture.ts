import { inject, Injectable } from '@angular/core';
import { LaneBook } from '../kit/lane-book';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';

/** An edge is under the pointer if it is this close, in px. */
const EDGE_PX = 4;

/** The upper edge of a lane: dragged, it makes the lane taller. */
@Injectable()
export class LaneEdgeGesture implements PointerSource {
  readonly order = ORDER.keys - 0.5;
  private readonly view = inject(Viewport);
  private readonly book = inject(LaneBook);

  under({ offsetY }: At): Under | null {
    const lane = this.view.lanes().find(({ id }) => {
      const { top, height } = this.view.frameOf(id);
      return height > 0 && this.book.has(id) && Math.abs(offsetY - top) <= EDGE_PX;
    });
    return lane ? { cursor: 'row-resize', press: (from) => this.drag(lane.id, from) } : null;
  }

  private drag(id: string, from: At): Gesture {
    const before = this.book.heightOf(id);
    // Where the pointer was: the rows of the roll move with the edge.
    const { offsetY } = from;
    const move = (at: At) => this.book.resize(id, before + offsetY - at.offsetY);
    return { kind: 'lane', move, drop: move, cancel: () => this.book.resize(id, before) };
  }
}
