import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import type { GridValue } from '@early-sparrow/core/grid';

/** A note of a value from the whole to the sixty-fourth, drawn: head, stem and flags. */
@Component({
  selector: 'es-note-symbol',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { 'aria-hidden': 'true' },
  template: `
    <svg viewBox="0 0 16 22" width="13" height="18">
      <ellipse
        cx="5.5"
        cy="18"
        rx="4.2"
        ry="3"
        transform="rotate(-20 5.5 18)"
        [attr.fill]="value() > 2 ? 'currentColor' : 'none'"
        stroke="currentColor"
        stroke-width="1.4"
      />
      @if (value() > 1) {
        <path d="M9.4 17V2" stroke="currentColor" stroke-width="1.4" />
      }
      @for (flag of flags(); track flag) {
        <path [attr.d]="'M9.4 ' + flag + 'q.6 3 5 4.6'" fill="none" stroke="currentColor" stroke-width="1.5" />
      }
    </svg>
  `,
  styles: `
    :host {
      display: inline-block;
      line-height: 0;
    }
  `,
})
export class NoteSymbol {
  readonly value = input.required<GridValue>();
  /** Heights at which the flags leave the stem. */
  protected readonly flags = computed(() => {
    const count = Math.max(0, Math.log2(this.value()) - 2);
    return Array.from({ length: count }, (_, i) => 2 + i * 2.8);
  });
}
