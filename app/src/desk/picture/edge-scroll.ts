import type { At, Gesture } from '../kit/pointer';
import { KEYS_WIDTH, RULER_HEIGHT, type Viewport } from '../kit/viewport';

/** The picture scrolls where the pointer is so close to its right edge, in px; at the left the keys are the edge. */
const EDGE_PX = 10;
/** How fast it scrolls at the edge, how much faster for each px beyond it, and at most; in px/s. */
const SLOWEST = 150;
const FASTER = 12;
const FASTEST = 1800;
/** A page that stood still does not jump afterwards, in ms. */
const LONGEST_FRAME = 50;

/** Scrolls the picture along where something is dragged over its edge. */
export class EdgeScroll {
  private place: At | null = null;
  private ways: Gesture['scrolls'];
  private frame = 0;
  private last = 0;

  /** @param scrolled is called after each scroll */
  constructor(
    private readonly view: Viewport,
    private readonly scrolled: () => void,
  ) {}

  /** Where the pointer is now. */
  at(place: At, ways: Gesture['scrolls']): void {
    [this.place, this.ways] = [place, ways];
    if (this.frame !== 0 || this.speed() === null) return;
    this.last = performance.now();
    this.frame = requestAnimationFrame((now) => this.step(now));
  }

  end(): void {
    this.place = null;
    cancelAnimationFrame(this.frame);
    this.frame = 0;
  }

  private step(now: number): void {
    this.frame = 0;
    const speed = this.speed();
    if (!speed) return;
    const { view } = this;
    const seconds = Math.min(LONGEST_FRAME, Math.max(0, now - this.last)) / 1000;
    this.last = now;
    const [left, top] = [view.left(), view.topRow()];
    view.scroll(speed.x * seconds, speed.y * seconds);
    if (view.left() !== left || view.topRow() !== top) this.scrolled();
    if (this.place) this.frame = requestAnimationFrame((next) => this.step(next));
  }

  /** In px/s; null where the picture stays. */
  private speed(): { readonly x: number; readonly y: number } | null {
    const { place, view, ways } = this;
    if (!place || !ways) return null;
    const x = speedBeyond(place.offsetX, KEYS_WIDTH, view.width() - EDGE_PX);
    const y = ways === 'both' ? speedBeyond(place.offsetY, RULER_HEIGHT, view.rollBottom()) : 0;
    return x === 0 && y === 0 ? null : { x, y };
  }
}

function speedBeyond(place: number, from: number, to: number): number {
  const beyond = place < from ? place - from : place > to ? place - to : 0;
  return beyond === 0 ? 0 : Math.sign(beyond) * Math.min(FASTEST, SLOWEST + FASTER * Math.abs(beyond));
}
