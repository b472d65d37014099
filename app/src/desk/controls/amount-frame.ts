import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  linkedSignal,
  output,
  signal,
  viewChild,
} from '@angular/core';
import { MatSliderModule, MatSliderThumb } from '@angular/material/slider';
import { onceRendered } from '../../common/once-rendered';
import { Changes } from '../../state/changes';
import { takingBack } from '../kit/taking-back';
import { HINTS } from './hints';

let next = 0;

/**
 * A labelled slider with a field for typing the same amount. It is live while it moves, done once when it is let
 * go, and taken back by Escape or when the pointer is lost on the way.
 */
@Component({
  selector: 'es-amount-frame',
  imports: [MatSliderModule],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="head" [title]="hint()">
      <label [for]="id">{{ label() }}</label>
      <span class="number more">{{ more() }}</span>
      <input
        #field
        class="number field"
        autocomplete="off"
        spellcheck="false"
        [id]="id"
        [attr.aria-label]="label() + ', typed'"
        [attr.aria-invalid]="problem() !== null"
        (focus)="field.select()"
        (blur)="left()"
        (change)="type(field.value)"
        (keydown)="fieldKey($event, field)"
      />
    </div>
    <mat-slider [min]="min()" [max]="max()" [step]="step()" [displayWith]="told">
      <input
        matSliderThumb
        #slider="matSliderThumb"
        [value]="value()"
        [attr.aria-label]="label()"
        [attr.aria-description]="hint() || null"
        (pointerdown)="hold($event)"
        (pointerup)="released()"
        (keydown)="sliderKey($event, field)"
        (input)="move(slider.value)"
        (change)="letGo(slider.value)"
      />
    </mat-slider>
    @if (problem(); as text) {
      <p role="alert">{{ text }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      margin-top: 6px;
    }
    .head {
      display: flex;
      align-items: baseline;
      gap: 8px;
    }
    label {
      white-space: nowrap;
    }
    mat-slider {
      display: block;
      min-width: 0;
      /* No taller than what is seen of it: it must not lie over the fields beside it. */
      height: 22px;
      margin: 0 7px;
      width: calc(100% - 14px);
      --mat-slider-handle-width: 14px;
      --mat-slider-handle-height: 14px;
      --mat-slider-active-track-height: 4px;
      --mat-slider-inactive-track-height: 4px;
      --mat-slider-inactive-track-color: var(--line);
    }
    mat-slider ::ng-deep .mdc-slider__input {
      top: 0;
      height: 22px;
    }
    mat-slider ::ng-deep .mdc-slider__thumb {
      top: -13px;
    }
    .more {
      flex: 1;
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
      color: var(--soft);
      text-align: right;
      font-size: 12px;
      white-space: nowrap;
    }
    .field {
      width: 76px;
      padding: 1px 5px;
      border: 1px solid var(--line);
      border-radius: 5px;
      background: transparent;
      color: var(--ink);
      font-size: 13px;
      text-align: right;
    }
    .field:hover {
      border-color: var(--soft);
    }
    .field[aria-invalid='true'] {
      border-color: var(--late);
    }
    p {
      margin: 2px 0 0;
      font-size: 13px;
      color: var(--late);
    }
  `,
})
export class AmountFrame {
  readonly label = input.required<string>();
  protected readonly hint = computed(() => HINTS[this.label()] ?? '');
  /** Where the slider stands. */
  readonly value = input.required<number>();
  readonly min = input.required<number>();
  readonly max = input.required<number>();
  readonly step = input.required<number>();
  /** The amount as it is typed, with its unit. */
  readonly text = input.required<string>();
  /** What the amount means besides: other units, what it does. */
  readonly more = input('');
  /** Takes what was typed; gives a sentence where it cannot. */
  readonly take = input.required<(text: string) => string | null>();
  readonly moved = output<number>();
  readonly done = output<number>();
  /** What was shown while moving is taken back. */
  readonly cancelled = output<void>();

  protected readonly id = `amount-${next++}`;
  protected readonly problem = signal<string | null>(null);
  /** What a screen reader says of the value: the slider would say the bare number. */
  protected readonly told = (): string => [this.text(), this.more()].filter(Boolean).join(', ');
  private readonly thumb = viewChild.required('slider', { read: MatSliderThumb });
  private readonly field = viewChild.required<ElementRef<HTMLInputElement>>('field');
  private readonly changes = inject(Changes);
  private readonly onceRendered = onceRendered();
  /** Where the next press of a key begins: the last one can still be on its way to the value. */
  private readonly stands = linkedSignal(() => this.value());
  private held = false;
  /** Whether the field was begun by a digit on the slider: then the focus goes back there. */
  private fromSlider = false;
  private dropped = false;

  constructor() {
    // A field that is being written in keeps what is written, whatever the amount becomes meanwhile.
    effect(() => {
      const text = this.text();
      const field = this.field().nativeElement;
      if (document.activeElement !== field) field.value = text;
    });
    const destroy = inject(DestroyRef);
    const cancel = () => this.cancel();
    window.addEventListener('pointercancel', cancel);
    destroy.onDestroy(() => {
      window.removeEventListener('pointercancel', cancel);
      // Its own field is gone by then: only what was tried is taken back.
      if (this.held) this.cancelled.emit();
      this.held = false;
    });
    takingBack(destroy, () => this.held, cancel);
  }

  protected hold(event: PointerEvent): void {
    this.held = event.button === 0;
    this.dropped = false;
  }

  /** If the slider is released where it started, no change event follows: the preview ends here, and the next key counts. */
  protected released(): void {
    setTimeout(() => {
      if (this.held) this.cancelled.emit();
      this.held = this.dropped = false;
    });
  }

  protected move(value: number): void {
    if (this.dropped) return;
    this.problem.set(null);
    this.moved.emit(value);
  }

  protected letGo(value: number): void {
    const { dropped, held } = this;
    this.held = false;
    this.dropped = false;
    if (dropped) this.thumb().value = this.value();
    else if (held) this.done.emit(value);
    else this.nudge(value);
  }

  /** The slider is under the pointer still, but moves nothing any more. */
  private cancel(): void {
    if (!this.held) return;
    this.held = false;
    this.dropped = true;
    this.thumb().value = this.value();
    this.cancelled.emit();
  }

  protected type(text: string): void {
    const problem = text.trim() === this.text() ? null : this.take()(text);
    this.problem.set(problem);
    if (problem) return;
    const show = () => (this.field().nativeElement.value = this.text());
    // At once, so that Enter's own change event finds nothing new; and when the amount has come back as it is set.
    queueMicrotask(show);
    this.onceRendered(show);
  }

  /** What could not be read stays to be mended; all else is told as it is. */
  protected left(): void {
    this.fromSlider = false;
    if (!this.problem()) this.field().nativeElement.value = this.text();
  }

  protected fieldKey(event: KeyboardEvent, field: HTMLInputElement): void {
    const step = { ArrowUp: 1, ArrowDown: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      this.problem.set(null);
      this.stands.set(this.stepped(step * (event.shiftKey ? 10 : 1)));
      this.nudge(this.stands());
      this.onceRendered(() => {
        this.stands.set(this.value());
        field.value = this.text();
        field.select();
      });
    } else if (event.key === 'Enter') {
      this.type(field.value);
      if (this.problem() !== null) return;
      // What was written is done: the desk's keys work again. Later, so that Enter's own change event is through.
      const slider = this.fromSlider;
      setTimeout(() => (slider ? this.thumb()._hostElement.focus() : field.blur()));
    } else if (event.key === 'Escape') {
      field.value = this.text();
      this.problem.set(null);
      this.thumb()._hostElement.focus();
    }
  }

  /** A digit that is typed on the slider begins the field. */
  protected sliderKey(event: KeyboardEvent, field: HTMLInputElement): void {
    if (!/^[\d.,\-−+]$/.test(event.key) || event.ctrlKey || event.metaKey || event.altKey) return;
    event.preventDefault();
    field.focus();
    this.fromSlider = true;
    field.value = event.key;
    field.setSelectionRange(1, 1);
  }

  /** By a key: ten presses, or one that is held, are one step for undo. */
  private nudge(value: number): void {
    this.changes.as(`nudge ${this.label()}`, () => this.done.emit(value));
  }

  private stepped(steps: number): number {
    const { step, min, max } = this;
    const wanted = Math.round((this.stands() + steps * step()) / step()) * step();
    return Math.min(max(), Math.max(min(), Math.round(wanted * 1e6) / 1e6));
  }
}
