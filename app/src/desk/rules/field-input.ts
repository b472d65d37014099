import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import type { Field } from '@early-sparrow/core/rules';
import { numberProblem, pitchName } from '../../common/format';
import { words } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { Said } from '../../common/said';

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
        (change)="settle(number)"
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
  private readonly said = inject(Said);
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

  /** What is out of range is taken to its end, and told; what is no number is left as it was. */
  protected set(value: number): void {
    if (Number.isNaN(value)) return;
    const near = Math.max(this.least(), Math.min(this.most(), value));
    if (near !== value) this.tell();
    this.changed.emit(this.range()?.kind === 'pitch' ? Math.round(near) : near);
  }

  /** Once it is typed, the field shows what counts. */
  protected settle(field: HTMLInputElement): void {
    if (Number.isNaN(field.valueAsNumber)) this.tell();
    field.value = String(this.value());
  }

  private tell(): void {
    this.said.say(numberProblem(this.least(), this.most()));
  }
}
