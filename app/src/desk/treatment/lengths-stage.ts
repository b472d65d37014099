import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Lengths } from '@early-sparrow/core/song';
import type { TypedAmount } from '@early-sparrow/core/time';
import { Amount } from '../controls/amount';
import type { Option } from '../../common/option';
import { Choice } from '../controls/choice';
import { StageRow } from './stage-row';
import { TimeAmountControl } from '../controls/time-amount';
import { Treating } from '../hand/treating';
import { ValueButton } from './value-button';

const MODES: readonly (Option & { readonly sentence: string })[] = [
  { value: 'none', text: 'keep', sentence: 'Keep lengths' },
  { value: 'line', text: 'to line', sentence: 'Put ends on lines' },
  { value: 'steps', text: 'steps', sentence: 'Make lengths whole steps' },
  { value: 'legato', text: 'legato', sentence: 'Hold notes until the next chord' },
  { value: 'fixed', text: 'fixed', sentence: 'Make all lengths one sixteenth' },
];

/** What becomes of note ends. */
@Component({
  selector: 'es-lengths-stage',
  imports: [StageRow, ValueButton, Amount, Choice, TimeAmountControl],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-stage-row
      [changed]="treating.differs('lengths')"
      (putBack)="treating.putBack('lengths')"
      name="Lengths"
      [on]="lengths().on"
      (switched)="set('Lengths', { on: $event })"
    >
      <ng-container sentence>
        <button es-value [open]="open()" (click)="open.set(!open())">{{ sentence() }}</button>
        @if (lengths().mode !== 'none') {
          , {{ percent() }} % of the way{{ lengths().mode === 'legato' ? gapText() : '' }}
        }
        @if (lengths().keep === 'end' && lengths().on) {
          {{ lengths().mode === 'none' ? 'but leave' : '; starts leave' }} ends where they were played
        }
      </ng-container>
      @if (open()) {
        <es-choice label="Ends" [value]="lengths().mode" [options]="modes" (picked)="mode($event)" />
        <es-choice label="When a start moves" [value]="lengths().keep" [options]="keeps" (picked)="keep($event)" />
        @if (lengths().mode !== 'none') {
          <es-amount
            label="Strength of the ends"
            [value]="percent()"
            (moved)="set('Length strength', { on: true, strength: $event / 100 }, true)"
            (done)="set('Length strength', { on: true, strength: $event / 100 })"
          />
        }
        @if (lengths().mode === 'legato') {
          <es-time-amount
            label="Gap"
            [amount]="lengths().gap"
            (moved)="gap($event, true)"
            (done)="gap($event, false)"
          />
        }
      }
    </es-stage-row>
  `,
})
export class LengthsStage {
  protected readonly treating = inject(Treating);
  protected readonly lengths = computed(() => this.treating.treatment()!.lengths);
  protected readonly open = signal(false);
  protected readonly modes = MODES;
  protected readonly keeps: Option[] = [
    { value: 'length', text: 'length stays' },
    { value: 'end', text: 'end stays' },
  ];
  protected readonly percent = computed(() => Math.round(this.lengths().strength * 100));
  protected readonly sentence = computed(() => MODES.find((m) => m.value === this.lengths().mode)?.sentence ?? '');

  protected readonly gapText = computed(() => {
    const { value, unit } = this.lengths().gap;
    return value === 0 ? '' : `, less ${value} ${unit}`;
  });

  protected mode(mode: string): void {
    const on = mode !== 'none' || this.lengths().keep === 'end';
    this.set('Lengths', { on, mode: mode as Lengths['mode'] });
  }

  protected keep(keep: string): void {
    const { on, mode } = this.lengths();
    this.set('Lengths', { on: keep === 'end' || (on && mode !== 'none'), keep: keep as Lengths['keep'] });
  }

  protected gap({ value, unit }: TypedAmount, live: boolean): void {
    if (unit !== 'percent') this.set('Gap', { on: true, gap: { value, unit } }, live);
  }

  protected set(name: string, lengths: Partial<Lengths>, live = false): void {
    if (live) this.treating.try(name, { lengths });
    else this.treating.commit(name, { lengths });
  }
}
