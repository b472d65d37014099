import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { LANES } from '../kit/lane';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { RULER_HEIGHT, Viewport } from '../kit/viewport';

/** With Alt beside the notes, or with the middle button, the picture itself is moved. */
@Injectable()
export class PanGesture implements PointerSource {
  readonly order = ORDER.everywhere;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly lanes = inject(LANES, { optional: true }) ?? [];

  under(at: At): Under | null {
    const pans = at.button === 1 || (at.altKey && this.isFree(at));
    return pans ? { cursor: 'grab', press: (from) => this.pan(from) } : null;
  }

  /** Whether Alt means nothing else at a place: on a note it copies, in some lanes it selects. */
  private isFree(at: At): boolean {
    if (at.offsetY < RULER_HEIGHT || this.scenery.noteUnder(at)) return false;
    const id = this.view.laneAt(at.offsetY);
    return !this.lanes.find((l) => l.id === id)?.framesByAlt;
  }

  pan(from: At): Gesture {
    let { offsetX: x, offsetY: y } = from;
    const inRoll = y < this.view.rollBottom();
    const move = (at: At) => {
      this.view.scroll(x - at.offsetX, inRoll ? y - at.offsetY : 0);
      ({ offsetX: x, offsetY: y } = at);
    };
    return { kind: 'pan', move, drop: move, cancel: () => undefined };
  }
}
