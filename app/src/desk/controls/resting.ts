import { DestroyRef, Directive, ElementRef, inject, input } from '@angular/core';

/** An element that came under a still pointer is meant once the pointer has moved so many px on it. */
const MEANT = 6;

/**
 * Shows something while the pointer rests on an element or the keyboard's focus is in it, and takes it back when
 * either leaves, is lost, or the element goes.
 */
@Directive({
  selector: '[esResting]',
  host: {
    '(pointerenter)': 'enter($event)',
    '(pointermove)': 'move($event)',
    '(pointerleave)': 'leave()',
    '(focus)': 'focus()',
    '(blur)': 'leave()',
    '(click)': 'leave()',
    '(keydown.escape)': 'leave()',
  },
})
export class Resting {
  /** Shows it. */
  readonly esResting = input.required<() => void>();
  /** Takes it back; no output, since it is called when the element goes too. */
  readonly esRestingEnd = input.required<() => void>();
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private from: { x: number; y: number; time: number } | null = null;
  private shows = false;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.leave());
  }

  protected enter(event: PointerEvent): void {
    // A touch is a press: it takes at once and shows nothing before.
    this.from = event.pointerType === 'touch' ? null : { x: event.clientX, y: event.clientY, time: event.timeStamp };
  }

  protected move(event: PointerEvent): void {
    const { from } = this;
    if (!from || this.shows) return;
    // Whoever moves onto it enters and moves at one moment; what comes under the pointer by itself is only entered.
    const cameByHand = event.timeStamp === from.time;
    if (cameByHand || Math.hypot(event.clientX - from.x, event.clientY - from.y) >= MEANT) this.show();
  }

  protected focus(): void {
    if (this.element.matches(':focus-visible')) this.show();
  }

  protected leave(): void {
    this.from = null;
    if (!this.shows) return;
    this.shows = false;
    this.esRestingEnd()();
  }

  private show(): void {
    this.shows = true;
    this.esResting()();
  }
}
