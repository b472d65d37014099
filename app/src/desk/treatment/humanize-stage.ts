import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Humanize } from '@early-sparrow/core/song';
import type { TypedAmount } from '@early-sparrow/core/time';
import { Amount } from '../controls/amount';
import { words, type Option } from '../../common/option';
import { Choice } from '../controls/choice';
import { StageRow } from './stage-row';
import { TimeAmountControl } from '../controls/time-amount';
import { Treating } from '../hand/treating';
import { ValueButton } from './value-button';

/** Controlled randomness: the same seed gives the same notes, so its amounts work as sliders. */
@Component({
  selector: 'es-humanize-stage',
  imports: [StageRow, ValueButton, Amount, Choice, TimeAmountControl],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-stage-row
      [changed]="treating.differs('humanize')"
      (putBack)="treating.putBack('humanize')"
      name="Humanize"
      [on]="h().on"
      (switched)="set('Humanize', { on: $event })"
    >
      <ng-container sentence>
        @if (acts()) {
          Humanize
          @if (h().start > 0) {
            starts by up to
            <button es-value [open]="open()" (click)="open.set(!open())">{{ h().start }} ms</button>{{ manner()
            }}{{ h().length > 0 || h().velocity > 0 ? ',' : '' }}
          }
          @if (h().length > 0) {
            lengths by up to
            <button es-value [open]="open()" (click)="open.set(!open())">{{ lengthText() }}</button>{{
              h().velocity > 0 ? ',' : ''
            }}
          }
          @if (h().velocity > 0) {
            velocities by up to
            <button es-value [open]="open()" (click)="open.set(!open())">{{ h().velocity }} %</button>
          }
        } @else {
          Humanize <button es-value [open]="open()" (click)="open.set(!open())">nothing</button>
        }
        (seed&nbsp;<button es-value [open]="false" title="New random numbers" (click)="reroll()">{{ h().seed }}</button
        >)
      </ng-container>
      @if (open()) {
        <es-choice label="Shape" [value]="h().shape" [options]="shapes" (picked)="pick({ shape: $any($event) })" />
        <es-choice
          label="Lean"
          [value]="h().startLean"
          [options]="leans"
          (picked)="pick({ startLean: $any($event) })"
        />
        <es-time-amount
          label="Starts"
          [max]="50"
          [step]="0.5"
          [amount]="{ value: h().start, unit: 'ms' }"
          (moved)="live({ start: starts($event) })"
          (done)="pick({ start: starts($event) })"
        />
        <es-amount
          label="Lengths"
          [value]="h().length"
          (moved)="live({ length: $event })"
          (done)="pick({ length: $event })"
        />
        <es-amount
          label="Velocities"
          [value]="h().velocity"
          (moved)="live({ velocity: $event })"
          (done)="pick({ velocity: $event })"
        />
        <es-amount
          label="Chords together"
          [value]="together()"
          (moved)="live({ together: $event / 100 })"
          (done)="pick({ together: $event / 100 })"
        />
        <button class="word" (click)="reroll()">Reroll</button>
      }
    </es-stage-row>
  `,
})
export class HumanizeStage {
  protected readonly treating = inject(Treating);
  protected readonly h = computed(() => this.treating.treatment()!.humanize);
  protected readonly open = signal(false);
  protected readonly shapes: Option[] = [
    { value: 'even', text: 'even' },
    { value: 'bell', text: 'bell' },
    { value: 'drift', text: 'wandering' },
  ];
  protected readonly leans = words('early', 'both', 'late');
  protected readonly together = computed(() => Math.round(this.h().together * 100));
  protected readonly manner = computed(() => {
    const { shape, startLean } = this.h();
    return `${shape === 'drift' ? ', wandering' : ''}${startLean === 'both' ? '' : `, all ${startLean}`}`;
  });

  /** Whether anything is random at all. */
  protected readonly acts = computed(() => this.h().start > 0 || this.h().length > 0 || this.h().velocity > 0);
  protected readonly lengthText = computed(() => `${this.h().length} ${this.h().lengthUnit === 'ms' ? 'ms' : '%'}`);

  /** Starts are humanized in ms, whatever unit was typed; 500 ms at most. */
  protected starts({ value, unit }: TypedAmount): number {
    const ms = unit === 'percent' ? 0 : this.treating.inMs({ value, unit });
    return Math.min(500, Math.round(ms * 10) / 10);
  }

  protected reroll(): void {
    this.pick({ seed: (this.h().seed % 9999) + 1 });
  }

  protected pick(change: Partial<Humanize>): void {
    this.set('Humanize', { on: true, ...change });
  }

  protected live(change: Partial<Humanize>): void {
    this.treating.try('Humanize', { humanize: { on: true, ...change } });
  }

  protected set(name: string, humanize: Partial<Humanize>): void {
    this.treating.commit(name, { humanize });
  }
}
