import fc from 'fast-check';
import { isProblem, type Edit } from '@early-sparrow/core/edit';
import {
  applyRule,
  BUILT_IN_RULES,
  chordRoot,
  contradiction,
  findByRule,
  newAction,
  newCondition,
  ordinal,
  RULE_ACTIONS,
  RULE_CONDITIONS,
  RuleFileError,
  ruleFromJson,
  RuleSchema,
  ruleToJson,
  sayRule,
  type ActionId,
  type ConditionId,
  type Rule,
  type RuleScope,
} from '@early-sparrow/core/rules';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { songFault, type Song } from '@early-sparrow/core/song';
import { perform, treatPart } from '@early-sparrow/core/treatment';
import { anySongAtAll } from './any';
import { applied, note, part, song } from './build';

const QUARTER = 960;
const CONDITION_IDS = Object.keys(RULE_CONDITIONS) as ConditionId[];
const all = (s: Song, more: Partial<RuleScope> = {}): RuleScope => ({
  parts: s.tracks.flatMap((t) => t.parts.map((p) => p.id)),
  side: 'corrected',
  only: null,
  loop: null,
  selected: new Set(),
  ...more,
});
const rule = (when: Rule['when'], then: Rule['then'] = [newAction('select')], more: Partial<Rule> = {}): Rule => ({
  kind: 'early-sparrow-rule',
  version: 1,
  name: 'Test',
  match: 'all',
  when,
  every: 1,
  then,
  seed: 1,
  ...more,
});
const found = (s: Song, r: Rule, more: Partial<RuleScope> = {}) => findByRule(s, r, all(s, more));

function done(s: Song, r: Rule, more: Partial<RuleScope> = {}): Song {
  const ruled = applyRule(s, r, all(s, more));
  if (isProblem(ruled)) throw new Error(ruled.problem);
  return ruled.edit ? applied(s, ruled.edit).song : s;
}
const pitches = (s: Song) => part(s).notes.map((n) => n.pitch);

/** Two bars of eighths in 4/4, each a little late. */
const eighths = song(
  Array.from({ length: 16 }, (_, i) =>
    note(i, i * 480 + 6, { pitch: 36 + i, channel: 9, velocity: 20 + i * 5, length: 30 * (i + 1) }),
  ),
);

describe('conditions', () => {
  it.each<[ConditionId, Record<string, number | string>, number[]]>([
    ['beat', {}, [0, 2, 4, 6, 8, 10, 12, 14]],
    ['off-beat', {}, [1, 3, 5, 7, 9, 11, 13, 15]],
    ['downbeat', {}, [0, 8]],
    ['backbeat', {}, [2, 6, 10, 14]],
    ['place', { from: 2, to: 2.5 }, [2, 3, 10, 11]],
    // A sixteenth at 120 BPM is 125 ms; 960 ticks are 500 ms.
    ['shorter', { than: 47 }, [0, 1, 2]],
    ['longer', { than: 235 }, [15]],
    ['pitch', { low: 40, high: 41 }, [4, 5]],
    ['velocity', { low: 20, high: 30 }, [0, 1, 2]],
    ['drum', { which: 'hats' }, [6, 8, 10]],
    ['late', { by: 3 }, [0, 1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15]],
    ['late', { by: 4 }, []],
    ['early', { by: 0 }, []],
  ])('%s %j', (is, values, ids) => {
    expect(found(eighths, rule([newCondition(is, values)]))).toEqual(ids);
    const others = part(eighths)
      .notes.map((n) => n.id)
      .filter((id) => !ids.includes(id));
    expect(found(eighths, rule([{ ...newCondition(is, values), not: true }]))).toEqual(others);
  });

  it('are joined by and and by or, and one of so many is taken', () => {
    const both = [newCondition('beat'), newCondition('velocity', { low: 1, high: 50 })];
    expect(found(eighths, rule(both))).toEqual([0, 2, 4, 6]);
    expect(found(eighths, rule(both, undefined, { match: 'any' }))).toEqual([0, 1, 2, 3, 4, 5, 6, 8, 10, 12, 14]);
    expect(found(eighths, rule(both, undefined, { every: 2 }))).toEqual([2, 6]);
    expect(found(eighths, rule([], undefined, { every: 5 }))).toEqual([4, 9, 14]);
  });

  it('ask the loop, the selection and what the rule is for', () => {
    expect(found(eighths, rule([newCondition('loop')]))).toEqual([]);
    expect(found(eighths, rule([newCondition('loop')]), { loop: { from: 480, to: 1440 } })).toEqual([1, 2]);
    // Early for its first line a note is of it, early for the first one behind it is not.
    const early = song([note(0, 0), note(1, 450), note(2, 960), note(3, 1410)]);
    const played = { loop: { from: 480, to: 1440 }, side: 'played' as const };
    expect(found(early, rule([newCondition('loop')]), played)).toEqual([1, 2]);
    expect(found(early, rule([newCondition('loop')]), { ...played, loop: { from: 0, to: 1920 } })).toEqual([
      0, 1, 2, 3,
    ]);
    expect(found(eighths, rule([newCondition('selected')]), { selected: new Set([3, 99]) })).toEqual([3]);
    expect(found(eighths, rule([newCondition('beat')]), { only: new Set([2, 3]) })).toEqual([2]);
  });

  it('take bounds that are upside down as they are meant, and drums in a kit only', () => {
    expect(found(eighths, rule([newCondition('velocity', { low: 30, high: 20 })]))).toEqual([0, 1, 2]);
    expect(found(eighths, rule([newCondition('pitch', { low: 41, high: 40 })]))).toEqual([4, 5]);
    const keys = song([note(0, 0, { pitch: 42 })]);
    expect(found(keys, rule([newCondition('drum', { which: 'hats' })]))).toEqual([]);
    const kit = { ...keys, tracks: keys.tracks.map((t) => ({ ...t, voice: 'drums' as const })) };
    expect(found(kit, rule([newCondition('drum', { which: 'hats' })]))).toEqual([0]);
  });

  it('that no note can pass together are told, and only those', () => {
    const says = (...when: Rule['when']) => contradiction(rule(when)) !== null;
    const is = newCondition;
    expect(says(is('beat'), is('off-beat'))).toBe(true);
    expect(says(is('late'), is('early'))).toBe(true);
    expect(says(is('beat'), { ...is('beat'), not: true })).toBe(true);
    expect(says(is('velocity', { low: 1, high: 10 }), is('velocity', { low: 20, high: 11 }))).toBe(true);
    expect(says(is('shorter', { than: 40 }), is('longer', { than: 40 }))).toBe(true);
    expect(says(is('shorter', { than: 41 }), is('longer', { than: 40 }))).toBe(false);
    expect(says(is('velocity', { low: 1, high: 20 }), is('velocity', { low: 20, high: 40 }))).toBe(false);
    expect(says(is('beat'), is('downbeat'), is('late'))).toBe(false);
    expect(contradiction(rule([is('beat'), is('off-beat')], undefined, { match: 'any' }))).toBeNull();
    // What it says of two is so: whatever the notes are, none passes.
    fc.assert(
      fc.property(anySongAtAll, fc.constantFrom(...CONDITION_IDS), fc.constantFrom(...CONDITION_IDS), (s, a, b) => {
        const r = rule([is(a), is(b)]);
        if (contradiction(r)) expect(found(s, r)).toEqual([]);
      }),
    );
  });

  it('see notes where they lie on the side that is shown', () => {
    const quantized = song([note(0, 100)], { quantize: { on: true } });
    const late = rule([newCondition('late', { by: 10 })]);
    expect(found(quantized, late, { side: 'played' })).toEqual([0]);
    expect(found(quantized, late)).toEqual([]);
  });

  it('tell a chord by the window of its treatment, and its outer notes', () => {
    const chords = song([
      note(0, 0, { pitch: 64 }),
      note(1, 5, { pitch: 60 }),
      note(2, 9, { pitch: 67 }),
      note(3, 960, { pitch: 70 }),
    ]);
    expect(found(chords, rule([newCondition('chord', { of: 3 })]))).toEqual([0, 1, 2]);
    expect(found(chords, rule([newCondition('lowest')]))).toEqual([1]);
    expect(found(chords, rule([newCondition('highest')]))).toEqual([2]);
    // A chord counts once.
    expect(found(chords, rule([], undefined, { every: 2 }))).toEqual([3]);
  });
});

describe('actions', () => {
  it('are done one after the other, as one step', () => {
    const r = rule(
      [newCondition('beat')],
      [newAction('velocity-set', { to: 50 }), newAction('velocity-add', { by: 7 })],
    );
    const ruled = applyRule(eighths, r, all(eighths));
    if (isProblem(ruled) || !ruled.edit) throw new Error('It does nothing.');
    const { song: after, inverse } = applied(eighths, ruled.edit);
    expect(
      part(after)
        .notes.map((n) => n.velocity)
        .slice(0, 4),
    ).toEqual([57, 25, 57, 35]);
    expect(applied(after, inverse).song).toEqual(eighths);
  });

  it('draw random numbers by note: the same again, others for another seed, all within bounds', () => {
    const loud = (seed: number) =>
      part(done(eighths, rule([], [newAction('velocity-random', { low: 62, high: 70 })], { seed }))).notes.map(
        (n) => n.velocity,
      );
    expect(loud(1)).toEqual(loud(1));
    expect(loud(1)).not.toEqual(loud(2));
    const many = song(Array.from({ length: 2000 }, (_, i) => note(i, i * 60)));
    const drawn = part(done(many, rule([], [newAction('velocity-random', { low: 62, high: 65 })]))).notes.map(
      (n) => n.velocity,
    );
    for (const v of [62, 63, 64, 65]) expect(drawn.filter((d) => d === v).length / 2000).toBeCloseTo(0.25, 1);
    expect(new Set(drawn).size).toBe(4);
    const scaled = done(
      many,
      rule([], [newAction('pitch-random', { low: 60, high: 72, root: 'D', scale: 'minor pentatonic' })]),
    );
    expect([...new Set(pitches(scaled))].sort()).toEqual([60, 62, 65, 67, 69, 72]);
  });

  it('that leave nothing say so beforehand', () => {
    expect(applyRule(eighths, rule([], [newAction('erase')]), all(eighths))).toMatchObject({ empties: true });
    expect(applyRule(eighths, rule([newCondition('beat')], [newAction('erase')]), all(eighths))).toMatchObject({
      empties: false,
    });
  });

  it('take rounding and the ends of the scale as they come', () => {
    expect(
      part(done(eighths, rule([], [newAction('velocity-add', { by: -126 })]))).notes.every((n) => n.velocity === 1),
    ).toBe(true);
    const high = song([note(0, 0, { pitch: 120 })]);
    const up = applyRule(high, rule([], [newAction('transpose', { by: 12 })]), all(high));
    expect(up).toMatchObject({ problem: expect.stringContaining('leave the keyboard') as string });
  });

  it('invert chords: the lowest note an octave up, the highest an octave down', () => {
    const triad = song([60, 64, 67].map((pitch, id) => note(id, 0, { pitch })));
    const named = (name: string) => BUILT_IN_RULES.find((r) => r.name === name)!;
    // Root position, first inversion, second inversion: common practice.
    const first = done(triad, named('Bottom note up'));
    expect(pitches(first).sort()).toEqual([64, 67, 72]);
    expect(pitches(done(first, named('Bottom note up'))).sort()).toEqual([67, 72, 76]);
    expect(pitches(done(triad, named('Top note down'))).sort()).toEqual([55, 60, 64]);
  });

  it('add an interval above the root, wherever the root is in the chord', () => {
    const seventh = (chord: number[]) =>
      pitches(
        done(song(chord.map((pitch, id) => note(id, 0, { pitch }))), rule([], [newAction('interval', { up: 10 })])),
      );
    expect(seventh([60, 64, 67]).sort()).toEqual([60, 64, 67, 70]);
    expect(seventh([64, 67, 72]).sort((a, b) => a - b)).toEqual([64, 67, 72, 82]);
    // Two notes are no chord here; a note that is there is not added.
    expect(seventh([60, 67])).toHaveLength(2);
    expect(seventh([60, 64, 67, 70])).toHaveLength(4);
  });

  it('change several parts at once, under a treatment too', () => {
    const quantized = song([note(0, 20), note(1, 500)], { quantize: { on: true } });
    const pushed = done(quantized, rule([], [newAction('nudge-ticks', { by: -4 })]));
    // From where they lie corrected.
    expect([...treatPart(part(pushed), pushed).start]).toEqual([0, 476]);
    const home = done(eighths, rule([newCondition('late', { by: 3 })], [newAction('quantize', { strength: 50 })]));
    expect(
      part(home)
        .notes.map((n) => n.start)
        .slice(0, 3),
    ).toEqual([3, 483, 963]);
  });
});

/**
 * source: the chord types and inversions of W. Piston, Harmony (1941), chapters on triads and seventh chords: the root is
 * the lowest note of the chord arranged in thirds. From memory: the book was not looked up.
 */
it.each([
  ['C major', [60, 64, 67], 0],
  ['its first inversion', [64, 67, 72], 0],
  ['its second inversion', [67, 72, 76], 0],
  ['A minor', [57, 60, 64], 9],
  ['A minor over C', [60, 64, 69], 9],
  ['G seven', [55, 59, 62, 65], 7],
  ['G seven over F', [53, 55, 59, 62], 7],
  ['C major seven', [60, 64, 67, 71], 0],
  ['D minor seven', [50, 53, 57, 60], 2],
  ['C without its fifth', [48, 60, 64], 0],
])('the root of %s', (_, chord, root) => {
  expect(chordRoot(chord)).toBe(root);
});

describe('a rule', () => {
  const ACTION_IDS = Object.keys(RULE_ACTIONS) as ActionId[];
  const anyRule = fc
    .record({
      when: fc.array(fc.record({ is: fc.constantFrom(...CONDITION_IDS), not: fc.boolean() }), { maxLength: 3 }),
      then: fc.array(fc.constantFrom(...ACTION_IDS), { minLength: 1, maxLength: 3 }),
      match: fc.constantFrom<'all' | 'any'>('all', 'any'),
      every: fc.integer({ min: 1, max: 4 }),
      seed: fc.nat(),
    })
    .map(({ when, then, ...more }) =>
      rule(
        when.map(({ is, not }) => ({ ...newCondition(is), not })),
        then.map((id) => newAction(id)),
        more,
      ),
    );

  it('leaves a whole song and is undone to the byte, whichever it is and whatever it is done to', () => {
    const bytes = (s: Song) => writeSmf(s, perform(s, 'corrected'));
    fc.assert(
      fc.property(
        anySongAtAll,
        anyRule,
        fc.constantFrom<'played' | 'corrected'>('played', 'corrected'),
        (s, r, side) => {
          const ruled = applyRule(s, r, all(s, { side, loop: { from: 0, to: QUARTER * 4 } }));
          if (isProblem(ruled)) return;
          const edit: Edit | null = ruled.edit;
          if (!edit) return;
          const { song: after, inverse } = applied(s, edit);
          expect(songFault(after)).toBeNull();
          expect(() => readSmf(bytes(after), 'after')).not.toThrow();
          const back = applied(after, inverse).song;
          expect(JSON.stringify(back)).toBe(JSON.stringify(s));
        },
      ),
      { numRuns: 150 },
    );
  });

  it('whose file was damaged anywhere is refused with a sentence, or is another rule that works', () => {
    const junk = fc.constantFrom(
      '',
      '"',
      '{',
      '}',
      '[]',
      'null',
      '-1',
      '1e9',
      '127',
      'true',
      ',',
      '\uFEFF',
      '"is"',
      '\0',
    );
    fc.assert(
      fc.property(anyRule, anySongAtAll, fc.nat(), fc.nat(20), junk, (r, s, at, length, put) => {
        const text = ruleToJson(r);
        const from = at % text.length;
        const damaged = text.slice(0, from) + put + text.slice(from + length);
        let read: Rule;
        try {
          read = ruleFromJson(damaged);
        } catch (error) {
          expect(error).toBeInstanceOf(RuleFileError);
          expect((error as Error).message).toMatch(/^[A-Z“].*\.$/s);
          return;
        }
        const ruled = applyRule(s, read, all(s, { loop: { from: 0, to: QUARTER } }));
        if (!isProblem(ruled) && ruled.edit) expect(songFault(applied(s, ruled.edit).song)).toBeNull();
      }),
      { numRuns: 400 },
    );
  });

  it('is the same after it was saved and read, and every built-in one can be', () => {
    fc.assert(
      fc.property(anyRule, (r) => void expect(ruleFromJson(ruleToJson(r))).toEqual(JSON.parse(JSON.stringify(r)))),
    );
    expect(BUILT_IN_RULES.length).toBeGreaterThanOrEqual(16);
    expect(new Set(BUILT_IN_RULES.map((r) => r.name)).size).toBe(BUILT_IN_RULES.length);
    for (const r of BUILT_IN_RULES) expect(RuleSchema.parse(r)).toEqual(r);
  });

  it('is read from a file in words that say what is wrong', () => {
    expect(() => ruleFromJson('{')).toThrow('This is not a rule file: it is no JSON.');
    expect(() => ruleFromJson('{"kind":"early-sparrow-recipe"}')).toThrow(/^This is not a rule file: at kind/);
    const bad = { ...rule([]), then: [{ do: 'mute', with: {} }], when: [{ is: 'late', with: { by: 'much' } }] };
    expect(() => ruleFromJson(JSON.stringify(bad))).toThrow(/^This is not a rule file: at when\.0\.with\.by/);
    expect(() => ruleFromJson(JSON.stringify({ ...rule([]), then: [] }))).toThrow(/at then/);
    expect(() => ruleFromJson(JSON.stringify({ ...rule([]), version: 2 }))).toThrow(/made by a newer version/);
    expect(() => ruleFromJson(JSON.stringify({ ...rule([]), when: [{ is: 'constructor', with: {} }] }))).toThrow(
      /at when/,
    );
  });

  it('says what it does', () => {
    const r = rule(
      [newCondition('beat'), { ...newCondition('drum', { which: 'hats' }), not: true }],
      [newAction('velocity-add', { by: 12 }), newAction('nudge-ticks', { by: -4 })],
      { every: 2 },
    );
    expect(sayRule(r)).toBe(
      'Notes on the beat and not of the hats, every 2nd of them: raise the velocity by 12, then nudge them by −4 ticks.',
    );
    expect(sayRule(rule([], [newAction('erase')]))).toBe('All notes: erase them.');
    expect([1, 2, 3, 4, 11, 12, 13, 21, 22].map(ordinal).join()).toBe('1st,2nd,3rd,4th,11th,12th,13th,21st,22nd');
  });
});
