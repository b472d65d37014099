import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import { roundsOf, type TakeRound } from '@early-sparrow/core/song';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { Looping } from '../listening/looping';

/** The takes of the part at hand: choose one by ear, or bring a stretch of one into another. */
@Component({
  selector: 'es-takes-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (rounds().length > 0) {
      <div class="bar" role="radiogroup" aria-label="Takes">
        <b>Takes</b>
        @for (round of rounds(); track round.id) {
          <button
            class="word"
            role="radio"
            [attr.aria-checked]="round.id === chosen()"
            [attr.aria-pressed]="round.id === chosen()"
            [title]="round.notes.length + ' notes'"
            (click)="choose(round)"
          >
            {{ round.name }}
          </button>
        }
        @if (stretch(); as span) {
          <span class="soft">The selected stretch from</span>
          @for (round of others(); track round.id) {
            <button class="word" (click)="bring(round, span)">{{ round.name }}</button>
          }
        }
        <button class="word" (click)="alone()">Keep this one alone</button>
      </div>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      padding: 4px 12px;
      border-bottom: 1px solid var(--line);
      background: var(--raised);
      font-size: 14px;
    }
    .soft {
      color: var(--soft);
      margin-left: 8px;
    }
  `,
})
export class TakesBar {
  private readonly store = inject(Store);
  private readonly looping = inject(Looping);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  private readonly selection = this.store.selectSignal(deskFeature.selectSelection);

  protected readonly rounds = computed(() => {
    const part = this.part();
    return part ? roundsOf(part) : [];
  });
  protected readonly chosen = computed(() => this.part()?.takes?.chosen.id);
  protected readonly others = computed(() => this.rounds().filter((r) => r.id !== this.chosen()));
  protected readonly stretch = computed(() => (this.selection().length > 0 ? this.looping.selectedSpan() : null));

  protected choose({ id, name }: TakeRound): void {
    const part = this.part();
    if (!part || id === this.chosen()) return;
    this.store.dispatch(
      DeskActions.edit({ edit: { kind: 'part-take', name: `Choose ${name}`, part: part.id, take: id } }),
    );
  }

  /** What the other take has where the selection is comes in, and what was there goes into that. */
  protected bring({ id, name }: TakeRound, { from, to }: { from: number; to: number }): void {
    const part = this.part();
    if (!part) return;
    const range = { from: Math.floor(from), to: Math.ceil(to) };
    const edit = { kind: 'part-take', name: `A stretch of ${name}`, part: part.id, take: id, range } as const;
    this.store.dispatch(DeskActions.edit({ edit }));
  }

  protected alone(): void {
    const part = this.part();
    if (!part) return;
    const name = `Keep ${part.takes?.chosen.name ?? 'the take'} alone`;
    this.store.dispatch(DeskActions.edit({ edit: { kind: 'part-one-take', name, part: part.id, takes: null } }));
  }
}
