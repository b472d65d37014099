import { ChangeDetectionStrategy, Component, DestroyRef, inject, input, output, signal } from '@angular/core';
import { readNumber } from '@early-sparrow/core/time';
import { numberProblem } from '../../common/format';
import { Said } from '../../common/said';
import { takingBack } from '../kit/taking-back';

/** So many px sideways are a step. */
const PX_A_STEP = 2;

/**
 * A small amount in a lane's head that changes what is there: dragged sideways, typed, or stepped with the arrow keys. It
 * is live while it moves, done once when it is let go, and stands at its beginning again then.
 */
@Component({
  selector: 'es-lane-amount',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span
      class="grip"
      [title]="'Drag sideways, or type: ' + label()"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up()"
      (pointercancel)="cancel()"
    >
      {{ label() }}
      <input
        #field
        class="number"
        autocomplete="off"
        [attr.aria-label]="label()"
        [value]="text()"
        (focus)="field.select()"
        (change)="type(field)"
        (keydown)="key($event)"
      />
    </span>
  `,
  styles: `
    :host {
      pointer-events: auto;
    }
    .grip {
      display: flex;
      align-items: center;
      gap: 5px;
      cursor: ew-resize;
      touch-action: none;
      user-select: none;
    }
    input {
      width: 56px;
      padding: 0 4px;
      border: 1px solid var(--line);
      border-radius: 5px;
      background: var(--paper);
      color: var(--ink);
      font-size: 12px;
      line-height: 17px;
      text-align: right;
    }
  `,
})
export class LaneAmount {
  readonly label = input.required<string>();
  /** Where it stands before anything is changed. */
  readonly zero = input(0);
  readonly min = input(-126);
  readonly max = input(126);
  readonly unit = input<'%' | ''>('');
  readonly moved = output<number>();
  readonly done = output<{ readonly value: number; readonly how: 'amount' | 'nudge' }>();
  readonly cancelled = output<void>();
  private readonly said = inject(Said);
  private readonly trying = signal<number | null>(null);
  private from: { readonly x: number; readonly pointer: number } | null = null;

  constructor() {
    takingBack(
      inject(DestroyRef),
      () => this.from !== null,
      () => this.cancel(),
    );
  }

  protected text(): string {
    return this.write(this.trying() ?? this.zero());
  }

  private write(value: number): string {
    const sign = value < 0 ? '−' : this.zero() === 0 && value > 0 ? '+' : '';
    return `${sign}${Math.abs(value)}${this.unit() && ' '}${this.unit()}`;
  }

  protected down(event: PointerEvent): void {
    if (event.button !== 0 || event.target instanceof HTMLInputElement) return;
    event.preventDefault();
    this.from = { x: event.clientX, pointer: event.pointerId };
    (event.currentTarget as HTMLElement).setPointerCapture(event.pointerId);
  }

  protected move(event: PointerEvent): void {
    if (this.from?.pointer !== event.pointerId) return;
    const value = this.within(this.zero() + Math.round((event.clientX - this.from.x) / PX_A_STEP));
    if (value === (this.trying() ?? this.zero())) return;
    this.trying.set(value);
    this.moved.emit(value);
  }

  protected up(): void {
    if (!this.from) return;
    this.from = null;
    const value = this.trying();
    this.trying.set(null);
    if (value !== null) this.done.emit({ value, how: 'amount' });
  }

  protected cancel(): void {
    if (!this.from) return;
    this.from = null;
    this.trying.set(null);
    this.cancelled.emit();
  }

  protected type(field: HTMLInputElement): void {
    const value = readNumber(field.value, this.unit());
    if (value === null || value !== this.within(value)) {
      this.said.say(numberProblem(this.write(this.min()), this.write(this.max())));
    } else if (value !== this.zero()) this.done.emit({ value, how: 'amount' });
    field.value = this.text();
  }

  protected key(event: KeyboardEvent): void {
    const by = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    this.done.emit({ value: this.within(this.zero() + by * (event.shiftKey ? 10 : 1)), how: 'nudge' });
  }

  private within(value: number): number {
    return Math.max(this.min(), Math.min(this.max(), value));
  }
}
