import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { roundsOf, type TakeRound } from '@early-sparrow/core/song';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';

/** The takes of the current part. */
@Injectable()
export class Taking {
  private readonly changes = inject(Changes);
  private readonly part = inject(Store).selectSignal(deskFeature.selectPart);

  readonly rounds = computed((): readonly TakeRound[] => {
    const part = this.part();
    return part ? roundsOf(part) : [];
  });
  readonly chosen = computed(() => this.part()?.takes?.chosen.id);

  choose({ id, name }: TakeRound): void {
    const part = this.part();
    if (!part || id === this.chosen()) return;
    this.changes.make({ kind: 'part-take', name: `Choose ${name}`, part: part.id, take: id }, 'take');
  }

  /** Chooses the take so many further on; at the ends it stays. */
  step(by: number): void {
    const rounds = this.rounds();
    const at = rounds.findIndex((r) => r.id === this.chosen());
    const next = rounds.at(Math.max(0, Math.min(rounds.length - 1, at + by)));
    if (at >= 0 && next) this.choose(next);
  }
}
