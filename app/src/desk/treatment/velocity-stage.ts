import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Velocity } from '@early-sparrow/core/song';
import { Amount } from '../controls/amount';
import { StageRow } from './stage-row';
import { Treating } from '../hand/treating';
import { ValueButton } from './value-button';

/** Contrast and level of the velocities. */
@Component({
  selector: 'es-velocity-stage',
  imports: [StageRow, ValueButton, Amount],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <es-stage-row
      [changed]="treating.differs('velocity')"
      (putBack)="treating.putBack('velocity')"
      name="Velocities"
      [on]="v().on"
      (switched)="treating.commit('Velocities', { velocity: { on: $event } })"
    >
      <ng-container sentence>
        @if (v().scale === 1 && v().level === 0) {
          Velocities <button es-value [open]="open()" (click)="open.set(!open())">as played</button>
        } @else {
          Velocities at
          <button es-value [open]="open()" (click)="open.set(!open())">{{ contrast() }} %</button> contrast,
          {{ v().level >= 0 ? '+' : '−' }}{{ size() }}
        }
      </ng-container>
      @if (open()) {
        <es-amount
          label="Contrast"
          [max]="200"
          [value]="contrast()"
          more="of the distance to the mean"
          (moved)="set({ scale: $event / 100 }, true)"
          (done)="set({ scale: $event / 100 }, false)"
        />
        <es-amount
          label="Level"
          [min]="-60"
          [max]="60"
          [value]="v().level"
          unit=""
          signed
          (moved)="set({ level: $event }, true)"
          (done)="set({ level: $event }, false)"
        />
      }
    </es-stage-row>
  `,
})
export class VelocityStage {
  protected readonly treating = inject(Treating);
  protected readonly v = computed(() => this.treating.treatment()!.velocity);
  protected readonly open = signal(false);
  protected readonly contrast = computed(() => Math.round(this.v().scale * 100));
  protected readonly size = computed(() => Math.abs(this.v().level));

  protected set(change: Partial<Velocity>, live: boolean): void {
    const edit = { velocity: { on: true, ...change } };
    if (live) this.treating.try('Velocities', edit);
    else this.treating.commit('Velocities', edit);
  }
}
