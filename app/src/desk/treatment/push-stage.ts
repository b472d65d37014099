import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { TypedAmount } from '@early-sparrow/core/time';
import { StageRow } from './stage-row';
import { TimeAmountControl } from '../controls/time-amount';
import { Treating } from '../hand/treating';
import { ValueButton } from './value-button';

/** Ahead of the beat or laid back: a constant added after quantizing. */
@Component({
  selector: 'es-push-stage',
  imports: [StageRow, ValueButton, TimeAmountControl],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-stage-row
      [changed]="treating.differs('push')"
      (putBack)="treating.putBack('push')"
      name="Push or pull"
      [on]="push().on"
      (switched)="treating.commit('Push or pull', { push: { on: $event } })"
    >
      <ng-container sentence>
        @if (push().amount.value === 0) {
          No <button es-value [open]="open()" (click)="open.set(!open())">push or pull</button>
        } @else {
          {{ push().amount.value < 0 ? 'Push ahead by' : 'Lay back by' }}
          <button es-value [open]="open()" (click)="open.set(!open())">{{ size() }} {{ push().amount.unit }}</button>
        }
      </ng-container>
      @if (open()) {
        <es-time-amount
          label="Earlier · later"
          [min]="-40"
          [max]="40"
          [step]="0.5"
          [amount]="push().amount"
          (moved)="set($event, true)"
          (done)="set($event, false)"
        />
      }
    </es-stage-row>
  `,
})
export class PushStage {
  protected readonly treating = inject(Treating);
  protected readonly push = computed(() => this.treating.treatment()!.push);
  protected readonly open = signal(false);
  protected readonly size = computed(() => Math.abs(this.push().amount.value));

  protected set({ value, unit }: TypedAmount, live: boolean): void {
    if (unit === 'percent') return;
    const change = { push: { on: value !== 0, amount: { value, unit } } };
    if (live) this.treating.try('Push or pull', change);
    else this.treating.commit('Push or pull', change);
  }
}
