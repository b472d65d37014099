import type { At, Gesture } from './pointer';

/** How fast it scrolls at the edge, how much faster for each px beyond it, and at most; in px/s. */
const SLOWEST = 150;
const FASTER = 12;
const FASTEST = 1800;
/** A page that stood still does not jump afterwards, in ms. */
const LONGEST_FRAME = 50;

/** What scrolls: px from its own upper left corner. */
export interface Pane {
  /** Beyond these the pointer scrolls it. */
  edges(): { readonly left: number; readonly right: number; readonly top: number; readonly bottom: number };
  /** Scrolls it by so many px. @returns whether that was possible */
  scroll(dx: number, dy: number): boolean;
  /** It was scrolled under the pointer. */
  scrolled(): void;
}

/** Scrolls a pane along where something is dragged over its edge. */
export class EdgeScroll {
  private place: At | null = null;
  private ways: Gesture['scrolls'];
  private frame = 0;
  private last = 0;

  constructor(private readonly pane: Pane) {}

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
    const seconds = Math.min(LONGEST_FRAME, Math.max(0, now - this.last)) / 1000;
    this.last = now;
    if (this.pane.scroll(speed.x * seconds, speed.y * seconds)) this.pane.scrolled();
    if (this.place) this.frame = requestAnimationFrame((next) => this.step(next));
  }

  /** In px/s; null where the pane stays. */
  private speed(): { readonly x: number; readonly y: number } | null {
    const { place, ways } = this;
    if (!place || !ways) return null;
    const { left, right, top, bottom } = this.pane.edges();
    const x = speedBeyond(place.offsetX, left, right);
    const y = ways === 'both' ? speedBeyond(place.offsetY, top, bottom) : 0;
    return x === 0 && y === 0 ? null : { x, y };
  }
}

function speedBeyond(place: number, from: number, to: number): number {
  const beyond = place < from ? place - from : place > to ? place - to : 0;
  return beyond === 0 ? 0 : Math.sign(beyond) * Math.min(FASTEST, SLOWEST + FASTER * Math.abs(beyond));
}
