import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { levelAndContrast, type Shaped } from '@early-sparrow/core/shape';
import { counted } from '../../common/format';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { LaneAmount } from './lane-amount';

/** Over the velocity lane: its name, and level and contrast of what is selected, or of the whole part. */
@Component({
  selector: 'es-velocity-head',
  imports: [LaneAmount],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span>Velocity</span>
    <span class="of">{{ of() }}</span>
    <es-lane-amount
      label="Level"
      (moved)="shaping.show(change($event, 100))"
      (done)="make(change($event.value, 100), $event.how)"
      (cancelled)="treating.endTrying()"
    />
    <es-lane-amount
      label="Contrast"
      unit="%"
      [zero]="100"
      [min]="0"
      [max]="300"
      (moved)="shaping.show(change(0, $event))"
      (done)="make(change(0, $event.value), $event.how)"
      (cancelled)="treating.endTrying()"
    />
  `,
  styles: `
    :host {
      display: flex;
      align-items: center;
      gap: 12px;
      height: 100%;
      min-width: 0;
    }
    .of {
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
    }
  `,
})
export class VelocityHead {
  protected readonly shaping = inject(Shaping);
  protected readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  protected readonly of = computed(() => {
    const count = this.selecting.count();
    return count > 0 ? `of ${counted(count, 'note')}` : 'of the part';
  });

  protected change(level: number, percent: number): Shaped {
    const ids = this.selecting.count() > 0 ? this.selecting.ids() : this.treating.part()?.notes.map((n) => n.id);
    const hand = ids && this.shaping.hand(ids);
    if (!hand || (level === 0 && percent === 100)) return null;
    return levelAndContrast(hand.track, hand.taken, { level, contrast: percent / 100 });
  }

  protected make(shaped: Shaped, how: 'amount' | 'nudge'): void {
    this.treating.endTrying();
    this.shaping.make(shaped, how === 'nudge' ? 'nudge velocity' : 'velocity', {}, true);
  }
}
