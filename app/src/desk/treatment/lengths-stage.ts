import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { isSwung } from '@early-sparrow/core/grid';
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
  { value: 'fixed', text: 'fixed', sentence: 'Make all lengths the same' },
];

/** Fixed lengths, in quarter notes. */
const SHORTEST = 1 / 256;
const LONGEST = 64;

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
        <button es-value [open]="open()" (click)="open.set(!open())">{{ sentence() }}</button>{{ tail() }}
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
        @if (lengths().mode === 'line' && swung()) {
          <es-choice
            label="Lines for ends"
            [value]="lengths().followSwing ? 'swung' : 'straight'"
            [options]="lines"
            (picked)="set('Lines for ends', { on: true, followSwing: $event === 'swung' })"
          />
        }
        @if (lengths().mode === 'fixed') {
          <es-time-amount
            label="Length"
            [min]="1"
            [max]="1000"
            [amount]="fixed()"
            (moved)="setFixed($event, true)"
            (done)="setFixed($event, false)"
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

  /** Whether the lines that starts go to are swung: then ends can go to those or to straight ones. */
  protected readonly swung = computed(() => {
    const { grid, groove } = this.treating.treatment()!.quantize;
    return groove !== null || isSwung(grid);
  });
  protected readonly lines: Option[] = [
    { value: 'straight', text: 'straight' },
    { value: 'swung', text: 'swung' },
  ];
  /** The fixed length, which is kept as a share of a quarter note, in ticks. */
  protected readonly fixed = computed((): TypedAmount => ({
    value: Math.round(this.lengths().fixed * this.treating.ppq()),
    unit: 'ticks',
  }));
  protected readonly fixedText = computed(() => this.treating.inUnits(this.fixed()));

  protected setFixed({ value, unit }: TypedAmount, live: boolean): void {
    const perQuarter = unit === 'ticks' ? this.treating.ppq() : 60_000 / this.treating.bpm();
    const fixed = Math.round((value / perQuarter) * 1e6) / 1e6;
    if (unit === 'percent') return;
    this.set('Length', { on: true, fixed: Math.min(LONGEST, Math.max(SHORTEST, fixed)) }, live);
  }

  /** How the sentence goes on. */
  protected readonly tail = computed(() => {
    const { mode, keep, on, followSwing } = this.lengths();
    return [
      mode === 'fixed' ? `: ${this.fixedText()}` : '',
      mode === 'line' && followSwing ? ', swung ones too' : '',
      mode === 'none' ? '' : `, ${this.percent()}\u00a0% of the way`,
      mode === 'legato' ? this.gapText() : '',
      keep === 'end' && on ? `${mode === 'none' ? ' but leave' : '; starts leave'} ends where they were played` : '',
    ].join('');
  });

  private readonly gapText = computed(() => {
    const { value, unit } = this.lengths().gap;
    return value === 0 ? '' : `, less ${value}\u00a0${unit}`;
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
