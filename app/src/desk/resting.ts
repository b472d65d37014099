import { DestroyRef, Directive, ElementRef, inject, input, output } from '@angular/core';

/** Further than this, in px, the pointer must really move: an element that comes under a still pointer was not meant. */
const MEANT = 3;

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
  /** Takes it back. */
  readonly rested = output<void>();
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private from: { x: number; y: number } | null = null;
  private shows = false;

  constructor() {
    inject(DestroyRef).onDestroy(() => this.leave());
  }

  protected enter(event: PointerEvent): void {
    // A touch is a press: it takes at once and shows nothing before.
    this.from = event.pointerType === 'touch' ? null : { x: event.clientX, y: event.clientY };
  }

  protected move(event: PointerEvent): void {
    if (!this.from || this.shows) return;
    if (Math.hypot(event.clientX - this.from.x, event.clientY - this.from.y) >= MEANT) this.show();
  }

  protected focus(): void {
    if (this.element.matches(':focus-visible')) this.show();
  }

  protected leave(): void {
    this.from = null;
    if (!this.shows) return;
    this.shows = false;
    this.rested.emit();
  }

  private show(): void {
    this.shows = true;
    this.esResting()();
  }
}
