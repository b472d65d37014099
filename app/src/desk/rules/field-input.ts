import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import type { Field } from '@early-sparrow/core/rules';
import { pitchName } from '../../common/format';
import { LiveNumber } from '../../common/live-number';
import { words } from '../../common/option';
import { PickOne } from '../../common/pick-one';

/** A value of a condition or an action: a number, a pitch with its name, or one of a few. */
@Component({
  selector: 'es-field-input',
  imports: [LiveNumber, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (field().kind === 'choice') {
      <es-pick-one [label]="label()" [value]="'' + value()" [options]="options()" (picked)="changed.emit($event)" />
    } @else {
      <input
        class="entry"
        step="any"
        [attr.aria-label]="label()"
        [title]="field().label"
        [least]="least()"
        [most]="most()"
        [esLiveNumber]="value()"
        (typed)="set($event)"
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

  protected set(value: number): void {
    this.changed.emit(this.range()?.kind === 'pitch' ? Math.round(value) : value);
  }
}
