import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { TypedAmount } from '@early-sparrow/core/time';
import { StageRow } from './stage-row';
import { TimeAmountControl } from '../controls/time-amount';
import { Treating } from '../hand/treating';
import { ValueButton } from './value-button';

/** "Take away 24 ms of lateness": a constant delay, before anything else. */
@Component({
  selector: 'es-lag-stage',
  imports: [StageRow, ValueButton, TimeAmountControl],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-stage-row
      [changed]="treating.differs('lag')"
      (putBack)="treating.putBack('lag')"
      name="Remove a steady lag"
      [on]="lag().on"
      (switched)="treating.commit($event ? 'Switch the lag on' : 'Switch the lag off', { lag: { on: $event } })"
    >
      <ng-container sentence>
        @if (lag().on || open()) {
          Remove
          <button es-value [open]="open()" (click)="open.set(!open())">{{ size() }} {{ lag().amount.unit }}</button>
          of {{ lag().amount.value < 0 ? 'rush' : 'lag' }}.
        } @else {
          Lag: <button es-value [open]="open()" (click)="open.set(true)">none removed</button>
        }
      </ng-container>
      @if (open()) {
        <es-time-amount
          label="Lag"
          [min]="-80"
          [max]="80"
          [step]="0.5"
          [amount]="lag().amount"
          (moved)="set($event, true)"
          (done)="set($event, false)"
        />
      }
    </es-stage-row>
  `,
})
export class LagStage {
  protected readonly treating = inject(Treating);
  protected readonly lag = computed(() => this.treating.treatment()!.lag);
  protected readonly open = signal(false);
  protected readonly size = computed(() => Math.abs(this.lag().amount.value));

  protected set({ value, unit }: TypedAmount, live: boolean): void {
    if (unit === 'percent') return;
    const change = { lag: { on: value !== 0, amount: { value, unit } } };
    if (live) this.treating.try('Lag', change);
    else this.treating.commit('Lag', change);
  }
}
