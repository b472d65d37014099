import { booleanAttribute, ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import type { Option } from '../../common/option';

/** One of a few words, as a row of buttons. */
@Component({
  selector: 'es-choice',
  imports: [MatButtonToggleModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-button-toggle-group
      hideSingleSelectionIndicator
      [class.wraps]="wraps()"
      [attr.aria-label]="label()"
      [value]="value()"
      (change)="picked.emit($event.value)"
    >
      @for (option of options(); track option.value) {
        <mat-button-toggle [value]="option.value">{{ option.text }}</mat-button-toggle>
      }
    </mat-button-toggle-group>
  `,
  styles: `
    :host {
      display: block;
      margin-top: 8px;
    }
    mat-button-toggle-group {
      display: grid;
      grid-auto-flow: column;
      grid-auto-columns: auto;
      --mat-button-toggle-height: 30px;
    }
    mat-button-toggle-group.wraps {
      display: flex;
      flex-wrap: wrap;
      width: fit-content;
    }
    mat-button-toggle {
      font-size: 13px;
    }
    mat-button-toggle ::ng-deep .mat-button-toggle-label-content {
      padding: 0 6px;
      line-height: 30px;
    }
  `,
})
export class Choice {
  readonly label = input.required<string>();
  readonly value = input.required<string>();
  readonly options = input.required<readonly Option[]>();
  /** What finds no room goes into another row. */
  readonly wraps = input(false, { transform: booleanAttribute });
  readonly picked = output<string>();
}
