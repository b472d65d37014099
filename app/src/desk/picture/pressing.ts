import { inject, Injectable, signal } from '@angular/core';
import { Feedback } from '../kit/feedback';
import { EdgeScroll } from '../kit/edge-scroll';
import { placeOf, type At, type Gesture, type Under } from '../kit/pointer';
import { Pointing } from '../kit/pointing';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { anchored } from './anchored';
import { Gestures } from './gestures';
import { LongPress } from './long-press';
import { TwoFingers } from './two-fingers';

/** The pointer must go this far before pressing becomes dragging, in px. */
const DRAG_PX = 4;
/** What a finger covers, in px. */
const TOUCH_PX = 24;
/** The picture scrolls where something is dragged so close to its right edge, in px; at the left the keys are the edge. */
const EDGE_PX = 10;
/** A second press follows the first within so many ms. */
const AGAIN_MS = 500;

/** What is dragged. */
interface Drag {
  readonly gesture: Gesture;
  readonly under: Under;
  readonly x: number;
  readonly y: number;
  readonly pointer: number;
  moved: boolean;
  last: At;
}

/** What a press in the picture begins before all else, where something is armed. */
export interface Armed {
  begin(at: At): Gesture | null;
  open(at: At): void;
}

/** The pointer in the picture: what is under it, and what pressing, dragging, pressing again and staying do. */
@Injectable()
export class Pressing {
  private readonly view = inject(Viewport);
  private readonly gestures = inject(Gestures);
  private readonly feedback = inject(Feedback);
  private readonly pointing = inject(Pointing);
  /** Where the pointer is, and what is under it while nothing is dragged. */
  readonly hover = signal<{ readonly x: number; readonly y: number; readonly under: Under | null } | null>(null);
  /** The shape of the pointer. */
  readonly cursor = signal('default');
  /** The strip of verbs, which can be opened and armed. */
  armed: Armed = { begin: () => null, open: () => undefined };
  private readonly fingers = new TwoFingers(this.view);
  private readonly long = new LongPress((at) => this.stayed(at));
  private readonly edge = new EdgeScroll({
    edges: () => ({
      left: KEYS_WIDTH,
      right: this.view.width() - EDGE_PX,
      top: RULER_HEIGHT,
      bottom: this.view.rollBottom(),
    }),
    scroll: (dx, dy) => {
      const { view } = this;
      const [left, row] = [view.left(), view.topRow()];
      view.scroll(dx, dy);
      return view.left() !== left || view.topRow() !== row;
    },
    scrolled: () => this.scrolled(),
  });
  private drag: Drag | null = null;
  /** The press before, where the pointer was let go without moving. */
  private pressed: { readonly x: number; readonly y: number; readonly at: number } | null = null;

  get busy(): boolean {
    return this.drag !== null;
  }

  /** Whether what is pressed was moved. */
  get dragging(): boolean {
    return this.drag?.moved === true;
  }

  /** @param capture keeps the pointer with the picture until it is let go */
  down(event: PointerEvent, capture: (pointer: number) => void): void {
    const { pointerId: pointer } = event;
    const at = placeOf(event);
    const { offsetX: x, offsetY: y } = at;
    if (this.fingers.down(event)) {
      this.cancel();
      return;
    }
    if (this.drag || event.button > 1) return;
    capture(pointer);
    const under = this.gestures.under(at);
    const again = this.armed.begin(at) ?? (this.isSecond(event) ? this.gestures.again(at) : null);
    this.pressed = null;
    // What a second press begins is there at once; a first one has to move before it is a drag.
    const gesture = again ?? this.gestures.begin(anchored(at, this.view));
    this.drag = { gesture, under, x, y, pointer, moved: again !== null, last: at };
    if (again) this.hover.set({ x, y, under: null });
    else this.long.begin(event);
  }

  move(event: PointerEvent): void {
    const { drag } = this;
    const at = placeOf(event);
    const { offsetX: x, offsetY: y } = at;
    if (this.fingers.move(event)) return;
    if (!drag) {
      this.pointing.move(at);
      const under = this.gestures.under(at);
      this.hover.set({ x, y, under });
      this.cursor.set(under.cursor);
      this.tellRow(x, y);
      return;
    }
    // Another finger steers nothing that the first one began.
    if (drag.pointer !== event.pointerId) return;
    const far = event.pointerType === 'touch' ? TOUCH_PX / 2 : DRAG_PX;
    if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < far) return;
    drag.moved = true;
    drag.last = at;
    this.long.end();
    this.tellRow(x, y);
    drag.gesture.move(at);
    this.edge.at(at, drag.gesture.scrolls);
    this.hover.set({ x, y, under: null });
  }

  up(event: PointerEvent): void {
    this.fingers.up(event);
    this.long.end();
    const { drag } = this;
    const at = placeOf(event);
    if (drag?.pointer !== event.pointerId) return;
    this.edge.end();
    this.drag = null;
    if (drag.moved) {
      drag.gesture.drop(at);
      return;
    }
    this.pressed = { x: at.offsetX, y: at.offsetY, at: event.timeStamp };
    if (at.button === 0) drag.under.click?.(at);
  }

  lost(event: PointerEvent): void {
    this.fingers.up(event);
    if (this.drag?.pointer === event.pointerId) this.cancel();
  }

  leave(): void {
    this.hover.set(null);
    this.feedback.row.set(null);
    this.pointing.leave();
  }

  /** Takes back a drag on its way: by Escape, or when the pointer is lost. */
  cancel(): void {
    const { drag } = this;
    this.drag = null;
    this.edge.end();
    this.long.end();
    if (drag?.moved) drag.gesture.cancel();
  }

  /** The picture was scrolled or zoomed: what is dragged is somewhere else in it now. */
  scrolled(): void {
    if (this.drag?.moved) this.drag.gesture.move(this.drag.last);
  }

  /** A finger or a pen stays where it was put. */
  private stayed(at: At): void {
    this.cancel();
    this.armed.open(at);
  }

  /** Whether a press follows another one in the same place. */
  private isSecond({ offsetX, offsetY, pointerType, timeStamp }: PointerEvent): boolean {
    const { pressed } = this;
    const slack = pointerType === 'touch' ? TOUCH_PX : DRAG_PX;
    const near = pressed && Math.hypot(offsetX - pressed.x, offsetY - pressed.y) <= slack;
    return near === true && timeStamp - pressed.at < AGAIN_MS;
  }

  private tellRow(x: number, y: number): void {
    this.feedback.row.set(x >= KEYS_WIDTH && y >= RULER_HEIGHT && y < this.view.rollBottom() ? y : null);
  }
}
