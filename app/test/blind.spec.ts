import { TestBed } from '@angular/core/testing';
import { BlindCompare } from '../src/desk/listening/blind-compare';
import { BlindTest, chanceOf } from '../src/desk/listening/blind-test';
import { Panels } from '../src/desk/kit/panels';
import { Player } from '../src/sound/player';
import { provideDeskStore } from './store';

describe('a blind compare', () => {
  function rig() {
    TestBed.configureTestingModule({ providers: [provideDeskStore(), BlindTest, Panels] });
    const player = TestBed.inject(Player);
    jest.spyOn(player, 'play').mockResolvedValue();
    return { test: TestBed.inject(BlindTest), player };
  }

  it('begins with either side, and each round anew: about half of two hundred', () => {
    const { test, player } = rig();
    test.start();
    let corrected = 0;
    for (let i = 0; i < 200; i++) {
      expect(test.hearing()).toBeNull();
      test.hear(0);
      if (player.blind() === 'corrected') corrected++;
      test.guess(0);
    }
    // Six standard deviations of the binomial distribution.
    expect(Math.abs(corrected - 100)).toBeLessThan(43);
    expect(test.score()).toEqual({ right: corrected, tries: 200 });
  });

  it('shows nothing of the side that sounds: the strip is the same for both', async () => {
    const { test, player } = rig();
    const strip = TestBed.createComponent(BlindCompare);
    const look = async () => {
      await strip.whenStable();
      return (strip.nativeElement as HTMLElement).innerHTML;
    };
    test.start();
    const seen = new Map<string, Set<string>>();
    for (let i = 0; i < 40; i++) {
      const before = await look();
      const side = String(player.blind());
      // What stands there before anything was heard in a round tells nothing of it.
      const verdict = before.replace(/(Yes|No)\. \d+ of \d+ right\./, '');
      seen.set(side, (seen.get(side) ?? new Set()).add(verdict));
      test.guess(0);
    }
    expect([...seen.keys()].sort()).toEqual(['corrected', 'played']);
    expect(new Set([...seen.values()].flatMap((s) => [...s])).size).toBe(1);
  });

  it('shows the score at its end, says how likely it is by guessing, and begins anew', () => {
    const { test, player } = rig();
    test.start();
    for (let i = 0; i < 8; i++) {
      test.hear(0);
      test.guess(player.blind() === 'corrected' ? 0 : 1);
    }
    test.end();
    expect(player.blind()).toBeNull();
    expect(test.result()).toEqual({ right: 8, tries: 8 });
    test.start();
    expect(test.result()).toBeNull();
    expect(test.score()).toEqual({ right: 0, tries: 0 });
    TestBed.inject(Panels).escape();
    expect([test.on(), test.result()]).toEqual([false, null]);
  });

  it.each([
    [8, 8, 'By guessing, 4 in 1000 would do as well.'],
    [6, 8, 'By guessing, 14 in 100 would do as well.'],
    [0, 3, 'By guessing, 100 in 100 would do as well.'],
    [20, 20, 'By guessing, fewer than 1 in 1000 would do as well.'],
  ])('%i of %i: %s', (right, tries, expected) => expect(chanceOf({ right, tries })).toBe(expected));
});
