import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Feedback } from '../kit/feedback';
import { LANES, type Lane } from '../kit/lane';
import { boxBetween, ORDER, type At, type Box, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';

/** Where nothing is, a rectangle selects what lies in it; a press alone selects nothing. */
@Injectable()
export class BoxGesture implements PointerSource {
  readonly order = ORDER.empty;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly feedback = inject(Feedback);
  private readonly lanes = inject(LANES, { optional: true }) ?? [];

  under(): Under {
    return { cursor: 'default', press: (from) => this.rectangle(from), click: (at) => this.press(at) };
  }

  private press({ shiftKey, ctrlKey, metaKey }: At): void {
    if (!shiftKey && !ctrlKey && !metaKey) this.selecting.select([]);
  }

  private rectangle(from: At): Gesture {
    const lane = this.lanes.find((l) => l.id === this.view.laneAt(from.offsetY));
    const area = (at: At) => boxBetween(from, at);
    return {
      kind: 'box',
      scrolls: lane ? 'sideways' : 'both',
      move: (at) => this.feedback.box.set(area(at)),
      drop: (at) => {
        const found = this.inside(area(at), lane);
        const before = at.shiftKey ? this.selecting.ids() : [];
        this.selecting.select([...new Set([...before, ...found])]);
      },
      cancel: () => undefined,
    };
  }

  /** Ids of the notes in a rectangle, in the lane in which it was begun, or in the roll. */
  private inside(box: Box, lane: Lane | undefined): readonly number[] {
    if (lane) return lane.inside(box, this.view.frameOf(lane.id));
    const { view } = this;
    const half = view.rowHeight() / 2;
    return this.scenery.pictures().flatMap((picture) => {
      const starts = this.scenery.corrected() ? picture.now : picture.played;
      return picture.part.notes
        .filter((_, i) => {
          const [x, middle] = [view.x(starts[i]), view.y(picture.pitch[i]) + half];
          return x >= box.x - half && x <= box.x + box.w && middle >= box.y - half && middle <= box.y + box.h;
        })
        .map((n) => n.id);
    });
  }
}
