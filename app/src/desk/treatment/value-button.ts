import { ChangeDetectionStrategy, Component, input } from '@angular/core';

/** A value inside a sentence that opens its control when pressed. */
@Component({
  selector: 'button[es-value]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[attr.aria-expanded]': 'open()', type: 'button' },
  template: `<ng-content />`,
  styles: `
    :host {
      border: 0;
      padding: 0 1px;
      background: none;
      font: inherit;
      font-weight: 600;
      font-variant-numeric: tabular-nums;
      color: var(--action);
      border-bottom: 2px solid color-mix(in srgb, var(--action) 55%, transparent);
      cursor: pointer;
      /* A number never parts from its unit. */
      white-space: nowrap;
    }
    :host([aria-expanded='true']),
    :host(:hover) {
      background: var(--raised);
      border-bottom-color: var(--action);
    }
  `,
})
export class ValueButton {
  readonly open = input.required<boolean>();
}
