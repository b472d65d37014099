import { isProblem } from '@early-sparrow/core/edit';
import { applyRule, BUILT_IN_RULES, type Rule, type RuleScope } from '@early-sparrow/core/rules';
import type { Song } from '@early-sparrow/core/song';
import { applied, note, part, song } from './build';

const all = (s: Song, more: Partial<RuleScope> = {}): RuleScope => ({
  parts: s.tracks.flatMap((t) => t.parts.map((p) => p.id)),
  side: 'corrected',
  only: null,
  loop: null,
  selected: new Set(),
  ...more,
});

function named(name: string): Rule {
  const rule = BUILT_IN_RULES.find((r) => r.name === name);
  if (!rule) throw new Error('There is no such rule.');
  return rule;
}

function done(s: Song, rule: Rule): Song {
  const ruled = applyRule(s, rule, all(s));
  if (isProblem(ruled) || !ruled.edit) throw new Error('It does nothing.');
  return applied(s, ruled.edit).song;
}

describe('built-in rules, each on a small take, worked out by hand', () => {
  /** One bar: eighths on C4 at velocity 80; the second 30 ms late, the third a ghost of 20, the fourth 10 ms short. */
  const take = song([
    note(0, 0),
    note(1, 480 + 58),
    note(2, 960, { velocity: 20 }),
    note(3, 1440, { length: 19 }),
    note(4, 1920, { length: 480 }),
  ]);
  const hats = song([note(0, 480, { pitch: 42, channel: 9 }), note(1, 960, { pitch: 38, channel: 9 })]);
  const triad = song([0, 960].flatMap((at, k) => [60, 64, 67].map((pitch, i) => note(k * 3 + i, at, { pitch }))));
  type Line = (n: Song['tracks'][number]['parts'][number]['notes'][number]) => unknown;
  const [starts, loud, keys, longs, all3]: Line[] = [
    (n) => n.start,
    (n) => n.velocity,
    (n) => n.pitch,
    (n) => n.length,
    (n) => [n.id, n.muted === true],
  ];
  it.each<[string, Song, Line, unknown[]]>([
    ['Lean on the beat', take, loud, [92, 80, 32, 80, 92]],
    ['Ease the off-beats', take, loud, [80, 68, 20, 68, 80]],
    ['Backbeat up', take, loud, [80, 80, 35, 80, 80]],
    // The mean is 68; half of each distance to it is left.
    ['Even hands', take, loud, [74, 74, 44, 74, 74]],
    ['Ghosts out', take, starts, [0, 538, 1440, 1920]],
    ['Blips out', take, starts, [0, 538, 960, 1920]],
    ['Hats forward', hats, starts, [476, 960]],
    ['Hats back', hats, starts, [484, 960]],
    ['Half time', take, starts, [0, 1076, 1920, 2880, 3840]],
    ['Double time', take, longs, [100, 100, 100, 10, 240]],
    ['Bottom note up', triad, keys, [64, 67, 72, 64, 67, 72]],
    ['Top note down', triad, keys, [55, 60, 64, 55, 60, 64]],
    ['Seventh on top', triad, keys, [60, 64, 67, 70, 60, 64, 67, 70]],
    [
      'Every other one out',
      take,
      all3,
      [
        [0, false],
        [1, true],
        [2, false],
        [3, true],
        [4, false],
      ],
    ],
    ['Stragglers home', take, starts, [0, 480, 960, 1440, 1920]],
    ['Clipped', take, longs, [200, 200, 200, 19, 288]],
  ])('%s', (name, s, line, expected) => {
    expect(part(done(s, named(name))).notes.map(line)).toEqual(expected);
  });

  it('the others: random ones within their bounds, those that select', () => {
    for (const n of part(done(take, named('Many hands'))).notes) {
      expect(n.velocity).toBeGreaterThanOrEqual(62);
      expect(n.velocity).toBeLessThanOrEqual(100);
    }
    for (const n of part(done(take, named('Shaken drawer'))).notes) {
      expect(n.pitch).toBeGreaterThanOrEqual(36);
      expect(n.pitch).toBeLessThanOrEqual(51);
    }
    expect(applyRule(take, named('Take the beats'), all(take))).toMatchObject({
      ids: [0, 2, 4],
      edit: null,
      selects: true,
    });
    const loop = all(take, { loop: { from: 480, to: 1440 } });
    expect(applyRule(take, named('Take the loop'), loop)).toMatchObject({ ids: [1, 2], edit: null, selects: true });
  });
});
