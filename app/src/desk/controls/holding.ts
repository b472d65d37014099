import { DestroyRef, Directive, ElementRef, inject, input, output } from '@angular/core';

/** A press that lasts so long looks and listens; a shorter one acts. In ms, by the times of its two events. */
const HOLD = 350;

/**
 * A button that acts when it is pressed, and shows or sounds what it would do while it is held: by pointer, by Enter or
 * Space. What is shown is taken back when it is let go, and by Escape, a lost pointer or a lost window.
 */
@Directive({
  selector: '[esHolding]',
  host: {
    '(pointerdown)': 'down($event)',
    '(pointerup)': 'up($event)',
    '(pointercancel)': 'cancel()',
    '(lostpointercapture)': 'cancel()',
    '(keydown)': 'key($event)',
    '(keyup)': 'keyUp($event)',
    '(blur)': 'cancel()',
    '(contextmenu)': '$event.preventDefault()',
  },
})
export class Holding {
  /** Shows it. */
  readonly esHolding = input.required<() => void>();
  /** Takes back what is shown; no output, since it is called when the element goes too. */
  readonly esHoldingEnd = input.required<() => void>();
  readonly pressed = output();
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private timer: ReturnType<typeof setTimeout> | null = null;
  private shows = false;
  /** When it was pressed, in ms. */
  private since = 0;

  constructor() {
    const lost = () => this.cancel();
    window.addEventListener('blur', lost);
    inject(DestroyRef).onDestroy(() => {
      window.removeEventListener('blur', lost);
      this.cancel();
    });
  }

  protected down(event: PointerEvent): void {
    if (event.button !== 0 || !event.isPrimary) return;
    this.element.setPointerCapture(event.pointerId);
    this.begin(event);
  }

  protected up(event: Event): void {
    if (this.timer === null) return;
    // On a busy page the timer can come before a release that happened in time.
    const looked = this.shows && event.timeStamp - this.since >= HOLD;
    this.cancel();
    if (!looked) this.pressed.emit();
  }

  protected key(event: KeyboardEvent): void {
    if (event.key === 'Escape' && this.timer !== null) {
      event.stopPropagation();
      this.cancel();
    }
    if (event.key !== 'Enter' && event.key !== ' ') return;
    event.preventDefault();
    event.stopPropagation();
    if (!event.repeat) this.begin(event);
  }

  protected keyUp(event: KeyboardEvent): void {
    if (event.key === 'Enter' || event.key === ' ') this.up(event);
  }

  protected cancel(): void {
    if (this.timer === null) return;
    clearTimeout(this.timer);
    this.timer = null;
    if (!this.shows) return;
    this.shows = false;
    this.esHoldingEnd()();
  }

  private begin(event: Event): void {
    this.cancel();
    this.since = event.timeStamp;
    this.timer = setTimeout(() => {
      this.shows = true;
      this.esHolding()();
    }, HOLD);
  }
}
