import type { Viewport } from '../kit/viewport';

type Finger = Pick<PointerEvent, 'pointerId' | 'pointerType' | 'offsetX' | 'offsetY'>;

/** Two fingers move the picture and zoom it; one finger acts. */
export class TwoFingers {
  private readonly fingers = new Map<number, { x: number; y: number }>();

  constructor(private readonly view: Viewport) {}

  /** A finger was put down. @returns whether it is a second one: what the first one began is over then */
  down({ pointerId, pointerType, offsetX: x, offsetY: y }: Finger): boolean {
    if (pointerType !== 'touch') return false;
    this.fingers.set(pointerId, { x, y });
    return this.fingers.size > 1;
  }

  /** @returns whether the move was theirs */
  move({ pointerId, offsetX: x, offsetY: y }: Finger): boolean {
    const finger = this.fingers.get(pointerId);
    if (!finger) return false;
    if (this.fingers.size < 2) {
      [finger.x, finger.y] = [x, y];
      return false;
    }
    const before = this.spread();
    [finger.x, finger.y] = [x, y];
    const now = this.spread();
    this.view.scroll(before.x - now.x, before.y - now.y);
    if (before.wide > 20 && now.wide > 20) this.view.zoom(now.x, now.wide / before.wide);
    return true;
  }

  up({ pointerId }: Pick<PointerEvent, 'pointerId'>): void {
    this.fingers.delete(pointerId);
  }

  /** The middle between the first two, and how far apart they are sideways. */
  private spread(): { x: number; y: number; wide: number } {
    const [a, b] = [...this.fingers.values()];
    return { x: (a.x + b.x) / 2, y: (a.y + b.y) / 2, wide: Math.abs(a.x - b.x) };
  }
}
