import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatSelectModule } from '@angular/material/select';
import type { Option } from './option';

/** One of many, from a list that drops down. */
@Component({
  selector: 'es-pick-one',
  imports: [MatSelectModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-select
      hideSingleSelectionIndicator
      panelWidth="auto"
      [aria-label]="label()"
      [value]="value()"
      (selectionChange)="picked.emit($event.value)"
    >
      @for (option of options(); track option.value) {
        <mat-option [value]="option.value">{{ option.text }}</mat-option>
      }
    </mat-select>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    mat-select {
      padding: 4px 8px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--paper);
      font-size: 14px;
      line-height: 20px;
      letter-spacing: normal;
    }
    :host ::ng-deep .mat-mdc-select-arrow-wrapper {
      padding-left: 6px;
    }
    mat-select:focus-visible {
      outline: 2px solid var(--action);
    }
  `,
})
export class PickOne {
  readonly label = input.required<string>();
  readonly value = input.required<string>();
  readonly options = input.required<readonly Option[]>();
  readonly picked = output<string>();
}
