import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { Player } from '../sound/player';
import type { Compare } from '../state/desk.feature';

/** For those who doubt that they hear it: the two in random order, a guess, and the score. */
@Component({
  selector: 'es-blind-compare',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (player.blind() !== null) {
      <div role="group" aria-label="Blind compare">
        <span>Blind: one of the two is corrected. Listen to</span>
        @for (n of [0, 1]; track n) {
          <button class="word" [attr.aria-pressed]="hearing() === n" (click)="hear(n)">{{ names[n] }}</button>
        }
        <span>The corrected one is</span>
        @for (n of [0, 1]; track n) {
          <button class="word act" (click)="guess(n)">{{ names[n] }}</button>
        }
        <span class="soft" role="status">{{ verdict() }}</span>
        <button class="word" (click)="player.blind.set(null)">End</button>
      </div>
    }
  `,
  styles: `
    div {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      padding: 4px 16px;
      border-top: 1px solid var(--line);
      background: var(--raised);
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
    .soft {
      color: var(--soft);
      margin-left: auto;
    }
  `,
})
export class BlindCompare {
  protected readonly player = inject(Player);
  protected readonly names = ['the first', 'the second'];
  private readonly order = signal<readonly [Compare, Compare]>(shuffled());
  private readonly score = signal({ right: 0, tries: 0, last: '' });
  protected readonly hearing = computed(() => this.order().indexOf(this.player.blind() ?? 'played'));
  protected readonly verdict = computed(() => {
    const { right, tries, last } = this.score();
    return tries === 0 ? '' : `${last} ${right} of ${tries} right.`;
  });

  protected hear(n: number): void {
    this.player.blind.set(this.order()[n]);
    if (!this.player.playing()) void this.player.play();
  }

  protected guess(n: number): void {
    const right = this.order()[n] === 'corrected';
    const { right: before, tries } = this.score();
    this.score.set({ right: before + (right ? 1 : 0), tries: tries + 1, last: right ? 'Yes.' : 'No.' });
    this.order.set(shuffled());
    this.player.blind.set(this.order()[0]);
  }
}

function shuffled(): readonly [Compare, Compare] {
  const swap = crypto.getRandomValues(new Uint8Array(1))[0] % 2 === 1;
  return swap ? ['corrected', 'played'] : ['played', 'corrected'];
}
