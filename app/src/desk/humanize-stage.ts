import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Humanize } from '@early-sparrow/core/song';
import { Amount } from './amount';
import { Choice, words, type Option } from './choice';
import { StageRow } from './stage-row';
import { Treating } from './treating';
import { ValueButton } from './value-button';

/** Controlled randomness: the same seed gives the same notes, so its amounts work as sliders. */
@Component({
  selector: 'es-humanize-stage',
  imports: [StageRow, ValueButton, Amount, Choice],
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
        Humanize starts by up to
        <button es-value [open]="open()" (click)="open.set(!open())">{{ h().start }} ms</button>{{ manner() }}, seed
        <button es-value [open]="false" title="New random numbers" (click)="reroll()">{{ h().seed }}</button>
      </ng-container>
      @if (open()) {
        <es-choice label="Shape" [value]="h().shape" [options]="shapes" (picked)="pick({ shape: $any($event) })" />
        <es-choice
          label="Lean"
          [value]="h().startLean"
          [options]="leans"
          (picked)="pick({ startLean: $any($event) })"
        />
        <es-amount
          label="Starts"
          [max]="50"
          [step]="0.5"
          [value]="h().start"
          [text]="treating.inUnits(h().start)"
          (moved)="live({ start: $event })"
          (done)="pick({ start: $event })"
        />
        <es-amount
          label="Lengths"
          [value]="h().length"
          [text]="h().length + ' %'"
          (moved)="live({ length: $event })"
          (done)="pick({ length: $event })"
        />
        <es-amount
          label="Velocities"
          [value]="h().velocity"
          [text]="h().velocity + ' %'"
          (moved)="live({ velocity: $event })"
          (done)="pick({ velocity: $event })"
        />
        <es-amount
          label="Chords together"
          [value]="together()"
          [text]="together() + ' %'"
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
