import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatSliderModule } from '@angular/material/slider';

/** A labelled slider that tells its value in words, live while it moves and once when it is let go. */
@Component({
  selector: 'es-amount',
  imports: [MatSliderModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span class="label">{{ label() }}</span>
    <mat-slider [min]="min()" [max]="max()" [step]="step()" [displayWith]="told">
      <input
        matSliderThumb
        [value]="value()"
        [attr.aria-label]="label()"
        (input)="moved.emit(+$any($event.target).value)"
        (change)="done.emit(+$any($event.target).value)"
      />
    </mat-slider>
    <span class="number text">{{ text() }}</span>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: auto 1fr;
      align-items: baseline;
      margin-top: 6px;
    }
    mat-slider {
      grid-column: 1 / -1;
      grid-row: 2;
      min-width: 0;
      margin: -12px 7px;
      width: calc(100% - 14px);
      --mat-slider-handle-width: 14px;
      --mat-slider-handle-height: 14px;
      --mat-slider-active-track-height: 4px;
      --mat-slider-inactive-track-height: 4px;
      --mat-slider-inactive-track-color: var(--line);
    }
    .text {
      color: var(--soft);
      text-align: right;
      font-size: 12.5px;
      white-space: nowrap;
    }
  `,
})
export class Amount {
  readonly label = input.required<string>();
  readonly value = input.required<number>();
  readonly min = input(0);
  readonly max = input(100);
  readonly step = input(1);
  /** The value in words and units. */
  readonly text = input.required<string>();
  /** What a screen reader says of the value: the slider would say the bare number. */
  protected readonly told = (): string => this.text();
  readonly moved = output<number>();
  readonly done = output<number>();
}
