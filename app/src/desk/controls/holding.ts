import { DestroyRef, Directive, ElementRef, inject, input, output } from '@angular/core';

/** A press that lasts so long looks and listens; a shorter one acts. In ms. */
const HOLD = 350;

/**
 * A button that acts when it is pressed, and shows or sounds what it would do while it is held: by pointer, by Enter or
 * Space. What is shown is taken back when it is let go, and by Escape, a lost pointer or a lost window.
 */
@Directive({
  selector: '[esHolding]',
  host: {
    '(pointerdown)': 'down($event)',
    '(pointerup)': 'up()',
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
    this.begin();
  }

  protected up(): void {
    if (this.timer === null) return;
    const looked = this.shows;
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
    if (!event.repeat) this.begin();
  }

  protected keyUp(event: KeyboardEvent): void {
    if (event.key === 'Enter' || event.key === ' ') this.up();
  }

  protected cancel(): void {
    if (this.timer === null) return;
    clearTimeout(this.timer);
    this.timer = null;
    if (!this.shows) return;
    this.shows = false;
    this.esHoldingEnd()();
  }

  private begin(): void {
    this.cancel();
    this.timer = setTimeout(() => {
      this.shows = true;
      this.esHolding()();
    }, HOLD);
  }
}
