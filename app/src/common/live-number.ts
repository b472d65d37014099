import { Directive, ElementRef, inject, input, output } from '@angular/core';
import { numberProblem } from './format';
import { onceRendered } from './once-rendered';
import { Said } from './said';

/**
 * A field for a number that counts while it is typed. What is out of range is taken to its end, and told; what is no
 * number is left as it was. Once it is typed, the field shows what counts.
 */
@Directive({
  selector: 'input[esLiveNumber]',
  host: {
    type: 'number',
    '[min]': 'least()',
    '[max]': 'most()',
    '[value]': 'esLiveNumber()',
    '(input)': 'take()',
    '(change)': 'settle()',
  },
})
export class LiveNumber {
  private readonly field: HTMLInputElement = inject(ElementRef).nativeElement;
  private readonly said = inject(Said);
  private readonly onceRendered = onceRendered();
  /** What counts. */
  readonly esLiveNumber = input.required<number | string>();
  readonly least = input.required<number>();
  readonly most = input.required<number>();
  readonly typed = output<number>();

  protected take(): void {
    const value = this.field.valueAsNumber;
    if (Number.isNaN(value)) return;
    const near = Math.max(this.least(), Math.min(this.most(), value));
    if (near !== value) this.tell();
    this.typed.emit(near);
  }

  protected settle(): void {
    if (Number.isNaN(this.field.valueAsNumber)) this.tell();
    this.onceRendered(() => (this.field.value = String(this.esLiveNumber())));
  }

  private tell(): void {
    this.said.say(numberProblem(this.least(), this.most()));
  }
}
