import { inject, Injectable } from '@angular/core';
import { LANES } from '../kit/lane';
import { ORDER, type At, type PointerSource, type Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';

/** What is under the pointer in a lane is the lane's own matter. */
@Injectable()
export class LanesGesture implements PointerSource {
  readonly order = ORDER.lanes;
  private readonly view = inject(Viewport);
  private readonly lanes = inject(LANES, { optional: true }) ?? [];

  under(at: At): Under | null {
    const id = this.view.laneAt(at.offsetY);
    const lane = this.lanes.find((l) => l.id === id);
    return lane?.under(at, this.view.frameOf(lane.id)) ?? null;
  }
}
