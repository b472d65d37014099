import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BlindTest, chanceOf } from './blind-test';

/** For those who doubt that they hear it: the two in random order, a guess, and the score. */
@Component({
  selector: 'es-blind-compare',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (test.on()) {
      <div role="group" aria-label="Blind compare">
        <span>Blind: one of the two is {{ quoted() }}. Listen to</span>
        @for (n of both; track n) {
          <button class="word" [attr.aria-pressed]="test.hearing() === n" (click)="test.hear(n)">{{ names[n] }}</button>
        }
        <span>{{ test.wanted() === 'corrected' ? 'The corrected one' : quoted() }} is</span>
        @for (n of both; track n) {
          <button class="word act" (click)="test.guess(n)">{{ names[n] }}</button>
        }
        <span class="soft" role="status">{{ verdict() }}</span>
        <button class="word" (click)="test.end()">End</button>
      </div>
    } @else if (result(); as text) {
      <div role="group" aria-label="Blind compare, result">
        <span role="status">{{ text }}</span>
        <button class="word act" (click)="test.again()">Again</button>
        <button class="word" (click)="test.forget()">Close</button>
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
  protected readonly test = inject(BlindTest);
  protected readonly both = [0, 1] as const;
  protected readonly names = ['the first', 'the second'];
  protected readonly quoted = computed(() => {
    const name = this.test.wanted();
    return name === 'corrected' ? name : `“${name}”`;
  });
  protected readonly verdict = computed(() => {
    const { right, tries } = this.test.score();
    return tries === 0 ? '' : `${this.test.last() ? 'Yes.' : 'No.'} ${right} of ${tries} right.`;
  });
  protected readonly result = computed(() => {
    const score = this.test.result();
    return score && `${score.right} of ${score.tries} right. ${chanceOf(score)}`;
  });
}
