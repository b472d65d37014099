import { ChangeDetectionStrategy, Component, type ElementRef, input, output, viewChild } from '@angular/core';
import { Icon } from '../../common/icon';

/** One stage of the treatment: a dot that switches it, a sentence, and what opens under it. */
@Component({
  selector: 'es-stage-row',
  imports: [Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { '[class.on]': 'on()' },
  template: `
    <div>
      <button
        #dot
        class="dot"
        role="switch"
        [attr.aria-checked]="on()"
        [attr.aria-label]="name()"
        [title]="(on() ? 'Switch off: ' : 'Switch on: ') + name()"
        (click)="switched.emit(!on())"
      ></button>
      @if (changed()) {
        <button
          class="word reset"
          [attr.aria-label]="'Put back: ' + name()"
          title="Back to its default"
          (click)="back()"
        >
          <es-icon name="restore" />
        </button>
      }
    </div>
    <div class="body">
      <p class="sentence"><ng-content select="[sentence]" /></p>
      <ng-content />
    </div>
  `,
  styles: `
    :host {
      position: relative;
      display: grid;
      grid-template-columns: 28px minmax(0, 1fr);
      padding: 8px 0;
      border-top: 1px solid var(--line);
    }
    .dot {
      position: relative;
      width: 14px;
      height: 14px;
      margin: 4px 0 0;
      padding: 0;
      border-radius: 50%;
      border: 1.5px solid var(--soft);
      background: none;
      cursor: pointer;
    }
    .dot::after {
      content: '';
      position: absolute;
      inset: -8px;
    }
    :host(.on) .dot {
      background: var(--action);
      border-color: var(--action);
    }
    .sentence {
      margin: 0;
      padding-right: 20px;
    }
    /* Beside the sentence, in room that is always kept: a row must not grow under the pointer. */
    .reset {
      position: absolute;
      top: 6px;
      right: -6px;
      padding: 4px;
      line-height: 0;
      color: var(--soft);
      opacity: 0.45;
    }
    .reset es-icon {
      width: 16px;
      height: 16px;
    }
    :host(:hover) .reset,
    .reset:focus-visible {
      opacity: 1;
    }
    :host(:not(.on)) .sentence {
      color: var(--soft);
    }
  `,
})
export class StageRow {
  readonly name = input.required<string>();
  readonly on = input.required<boolean>();
  readonly switched = output<boolean>();
  /** Whether the stage differs from its default, so that it can be put back. */
  readonly changed = input(false);
  readonly putBack = output<void>();
  private readonly dot = viewChild.required<ElementRef<HTMLElement>>('dot');

  /** The button goes with what it puts back: the focus goes to its neighbour first. */
  protected back(): void {
    this.dot().nativeElement.focus();
    this.putBack.emit();
  }
}
