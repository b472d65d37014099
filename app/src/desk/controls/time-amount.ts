import { booleanAttribute, ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { readAmount, type TypedAmount } from '@early-sparrow/core/time';
import { AmountFrame } from './amount-frame';
import { Treating } from '../hand/treating';

/** Longest time that can be typed, in ms: more is no correction any longer. */
const MOST_MS = 1000;

/** An amount of time: a slider in ms (or percent of half the gap), and a field that takes every unit. */
@Component({
  selector: 'es-time-amount',
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
      (moved)="moved.emit(inUnit($event))"
      (done)="done.emit(inUnit($event))"
      (cancelled)="treating.endTrying()"
    />
  `,
})
export class TimeAmountControl {
  protected readonly treating = inject(Treating);
  readonly label = input.required<string>();
  /** Null where there is no limit: the slider then stands at its end. */
  readonly amount = input.required<TypedAmount | null>();
  /** Of the slider. */
  readonly unit = input<'ms' | 'percent'>('ms');
  readonly min = input(0);
  readonly max = input(60);
  readonly step = input(1);
  /** Whether a share of half the gap between lines can be typed too. */
  readonly limits = input(false, { transform: booleanAttribute });
  /** Whether it can be without a limit. */
  readonly unlimited = input(false, { transform: booleanAttribute });
  readonly moved = output<TypedAmount>();
  readonly done = output<TypedAmount>();
  /** It is to be without a limit. */
  readonly cleared = output<void>();

  protected readonly value = computed(() => {
    const amount = this.amount();
    return amount === null ? this.max() : this.convert(amount);
  });

  protected readonly text = computed(() => {
    const amount = this.amount();
    if (amount === null) return 'no limit';
    const { value, unit } = amount;
    return `${value < 0 ? '−' : ''}${Math.abs(value)} ${unit === 'percent' ? '%' : unit === 'ticks' ? 't' : 'ms'}`;
  });

  protected readonly more = computed(() => {
    const amount = this.amount();
    if (!amount) return '';
    if (amount.unit === 'percent') return 'of half the gap';
    const own = amount.unit === 'ticks' ? ' t' : ' ms';
    return this.treating
      .inUnits(amount)
      .split(' · ')
      .filter((part) => !part.endsWith(own))
      .join(' · ');
  });

  protected readonly take = (text: string): string | null => {
    if (this.unlimited() && /^no(ne| limit)?$/i.test(text.trim())) {
      if (this.amount() !== null) this.cleared.emit();
      return null;
    }
    const typed = readAmount(text, this.unit(), this.treating.ppq());
    const each = [
      '12 ms',
      '1/64',
      '30 t',
      ...(this.limits() ? ['40 %'] : []),
      ...(this.unlimited() ? ['no limit'] : []),
    ];
    const examples = `${each.slice(0, -1).join(', ')} or ${each.at(-1)}`;
    if (!typed || (typed.unit === 'percent' && !this.limits())) return `Write a time such as ${examples}.`;
    const most = typed.unit === 'percent' ? 100 : MOST_MS;
    const size = typed.unit === 'percent' ? typed.value : this.treating.inMs({ value: typed.value, unit: typed.unit });
    if (size > most || size < (this.min() < 0 ? -most : 0)) {
      const least = this.min() < 0 ? `−${MOST_MS}` : '0';
      return `Write a time from ${least} to ${MOST_MS} ms${this.limits() ? ', or from 0 to 100 %' : ''}.`;
    }
    this.done.emit(typed);
    return null;
  };

  protected inUnit(value: number): TypedAmount {
    return { value, unit: this.unit() };
  }

  private convert(amount: TypedAmount): number {
    const { unit } = this;
    if (amount.unit === unit()) return amount.value;
    const half = this.treating.halfGapMs();
    const ms =
      amount.unit === 'percent'
        ? (amount.value / 100) * half
        : this.treating.inMs({ value: amount.value, unit: amount.unit });
    return unit() === 'ms' ? ms : half > 0 ? (100 * ms) / half : 0;
  }
}
