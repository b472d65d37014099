import { booleanAttribute, ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { readNumber } from '@early-sparrow/core/time';
import { AmountFrame } from './amount-frame';
import { Treating } from '../hand/treating';

/** A plain amount, such as a share in percent: a slider and a field for the same number. */
@Component({
  selector: 'es-amount',
  imports: [AmountFrame],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-amount-frame
      [label]="label()"
      [value]="value()"
      [min]="min()"
      [max]="max()"
      [step]="step()"
      [text]="text()"
      [more]="more()"
      [take]="take"
      (moved)="moved.emit($event)"
      (done)="done.emit($event)"
      (cancelled)="treating.endTrying()"
    />
  `,
})
export class Amount {
  protected readonly treating = inject(Treating);
  readonly label = input.required<string>();
  readonly value = input.required<number>();
  readonly min = input(0);
  readonly max = input(100);
  readonly step = input(1);
  /** `%`, or nothing for a bare number. */
  readonly unit = input<'%' | ''>('%');
  /** A sign before positive numbers, where the amount is a change. */
  readonly signed = input(false, { transform: booleanAttribute });
  readonly more = input('');
  readonly moved = output<number>();
  readonly done = output<number>();

  protected readonly text = computed(() => this.write(this.value()));

  protected readonly take = (text: string): string | null => {
    const typed = readNumber(text, this.unit());
    if (typed === null || typed < this.min() || typed > this.max()) {
      return `Write a number from ${this.write(this.min())} to ${this.write(this.max())}.`;
    }
    this.done.emit(typed);
    return null;
  };

  private write(value: number): string {
    const sign = value < 0 ? '−' : this.signed() && value > 0 ? '+' : '';
    return `${sign}${Math.abs(value)}${this.unit() && ' '}${this.unit()}`;
  }
}
