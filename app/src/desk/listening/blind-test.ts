import { computed, inject, Injectable, signal } from '@angular/core';
import { guessing } from '@early-sparrow/core/maths';
import { Player, type Side } from '../../sound/player';
import { Panels } from '../kit/panels';

/** How a blind compare stands or went. */
export interface Score {
  readonly right: number;
  readonly tries: number;
}

/** Two sides to be told apart. */
export interface Pair {
  readonly plain: Side;
  readonly wanted: Side;
  /** Of the wanted one, as people read it. */
  readonly name: string;
}

const SIDES: Pair = { plain: 'played', wanted: 'corrected', name: 'corrected' };

/**
 * The two sides in an order that nobody sees, new for each round, and the guesses about them. Which of the two is
 * heard first is as random as the rest, and nothing on the desk tells it.
 */
@Injectable()
export class BlindTest {
  private readonly player = inject(Player);
  private readonly opened = inject(Panels);
  private pair: Pair = SIDES;
  private readonly order = signal<readonly [Side, Side]>(shuffled(SIDES));

  /** What is to be told from the other: `corrected`, or a version by its name. */
  readonly wanted = signal(SIDES.name);

  readonly on = computed(() => this.player.blind() !== null);
  /** Which of the two was chosen to be heard in this round; null before the first choice. */
  readonly hearing = signal<0 | 1 | null>(null);
  readonly score = signal<Score>({ right: 0, tries: 0 });
  /** Whether the last guess was right; null before the first. */
  readonly last = signal<boolean | null>(null);
  /** How the compare that was ended went; null for none. */
  readonly result = signal<Score | null>(null);

  start(pair: Pair = SIDES): void {
    if (this.on()) return;
    this.pair = pair;
    this.wanted.set(pair.name);
    this.score.set({ right: 0, tries: 0 });
    this.last.set(null);
    this.result.set(null);
    this.round();
    this.opened.open('blind compare', () => this.end());
  }

  /** The same two once more. */
  again(): void {
    this.start(this.pair);
  }

  hear(which: 0 | 1): void {
    this.hearing.set(which);
    this.player.blind.set(this.order()[which]);
    if (!this.player.playing()) void this.player.play();
  }

  /** Guesses which of the two is the wanted one. */
  guess(which: 0 | 1): void {
    const isRight = this.order()[which] === this.pair.wanted;
    const { right, tries } = this.score();
    this.score.set({ right: right + (isRight ? 1 : 0), tries: tries + 1 });
    this.last.set(isRight);
    this.round();
  }

  /** Ends it and shows how it went; without a guess there is nothing to show. */
  end(): void {
    if (!this.on()) return;
    this.player.blind.set(null);
    this.opened.closed('blind compare');
    if (this.score().tries === 0) return;
    this.result.set(this.score());
    this.opened.open('blind result', () => this.forget());
  }

  forget(): void {
    this.result.set(null);
    this.opened.closed('blind result');
  }

  private round(): void {
    this.order.set(shuffled(this.pair));
    this.hearing.set(null);
    this.player.blind.set(this.order()[0]);
  }
}

/** `By guessing, 14 in 100 would do as well.` */
export function chanceOf({ right, tries }: Score): string {
  const share = guessing(right, tries);
  if (share < 0.001) return 'By guessing, fewer than 1 in 1000 would do as well.';
  if (share < 0.01) return `By guessing, ${Math.round(share * 1000)} in 1000 would do as well.`;
  return `By guessing, ${Math.round(share * 100)} in 100 would do as well.`;
}

function shuffled({ plain, wanted }: Pair): readonly [Side, Side] {
  const swap = crypto.getRandomValues(new Uint8Array(1))[0] % 2 === 1;
  return swap ? [wanted, plain] : [plain, wanted];
}
