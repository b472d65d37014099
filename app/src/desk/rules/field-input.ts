import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Field } from '@early-sparrow/core/rules';
import { pitchName } from '../../common/format';
import { words } from '../../common/option';
import { PickOne } from '../../common/pick-one';

/** A value of a condition or an action: a number, a pitch with its name, or one of a few. */
@Component({
  selector: 'es-field-input',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (field().kind === 'choice') {
      <es-pick-one [label]="label()" [value]="'' + value()" [options]="options()" (picked)="changed.emit($event)" />
    } @else {
      <input
        #number
        class="entry"
        type="number"
        step="any"
        [attr.aria-label]="label()"
        [title]="field().label"
        [min]="least()"
        [max]="most()"
        [value]="value()"
        (input)="set(number.valueAsNumber)"
      />
      <span class="unit">{{ unit() }}</span>
    }
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 4px;
      white-space: nowrap;
    }
    input {
      width: 58px;
      font-size: 13px;
      text-align: right;
    }
    .unit {
      color: var(--soft);
    }
    .unit:empty {
      display: none;
    }
  `,
})
export class FieldInput {
  readonly field = input.required<Field>();
  readonly value = input.required<number | string>();
  /** What it belongs to, as `Condition 1`. */
  readonly of = input.required<string>();
  readonly changed = output<number | string>();

  protected readonly label = computed(() => `${this.of()}, ${this.field().label.toLowerCase()}`);
  protected readonly options = computed(() => {
    const field = this.field();
    return field.kind === 'choice' ? words(...field.options) : [];
  });
  private readonly range = computed(() => {
    const field = this.field();
    return field.kind === 'choice' ? null : field;
  });
  protected readonly least = computed(() => this.range()?.least ?? 0);
  protected readonly most = computed(() => this.range()?.most ?? 0);
  protected readonly unit = computed(() => {
    const range = this.range();
    return range?.kind === 'pitch' ? pitchName(Number(this.value())) : (range?.unit ?? '');
  });

  /** What is out of range is taken to its end; what is no number is left as it was. */
  protected set(value: number): void {
    const range = this.range();
    if (!range || Number.isNaN(value)) return;
    const near = Math.max(range.least, Math.min(range.most, value));
    this.changed.emit(range.kind === 'pitch' ? Math.round(near) : near);
  }
}
