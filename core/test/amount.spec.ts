import fc from 'fast-check';
import { guessing } from '@early-sparrow/core/maths';
import { describeTicks, readAmount, readNumber, threeUnits } from '@early-sparrow/core/time';

describe('amounts as people type them', () => {
  it.each([
    ['12 ms', { value: 12, unit: 'ms' }],
    ['12', { value: 12, unit: 'ms' }],
    ['-7.5ms', { value: -7.5, unit: 'ms' }],
    ['−3 ms', { value: -3, unit: 'ms' }],
    ['1,5 ms', { value: 1.5, unit: 'ms' }],
    ['0.5 s', { value: 500, unit: 'ms' }],
    ['30 t', { value: 30, unit: 'ticks' }],
    ['30 ticks', { value: 30, unit: 'ticks' }],
    ['40 %', { value: 40, unit: 'percent' }],
    ['40%', { value: 40, unit: 'percent' }],
    // A 1/64 note is a sixteenth of a quarter.
    ['1/64', { value: 60, unit: 'ticks' }],
    ['-1/64', { value: -60, unit: 'ticks' }],
    ['1/8T', { value: 320, unit: 'ticks' }],
    ['1/8.', { value: 720, unit: 'ticks' }],
  ])('%s', (text, expected) => expect(readAmount(text, 'ms', 960)).toEqual(expected));

  it.each(['', 'ms', 'twelve', '12 px', '1/0', '1//4', '--3', '12 ms 4', 'NaN', '1e9999'])('%s is none', (text) =>
    expect(readAmount(text, 'ms', 960)).toBeNull(),
  );

  it('a bare number has no other unit than the one that is meant', () => {
    const typed = ['12', '−3,5', '+4', '40 %', '40 percent', '5 ms', '1/8', 'loud', ''];
    expect(typed.map((t) => readNumber(t, ''))).toEqual([12, -3.5, 4, null, null, null, null, null, null]);
    expect(typed.map((t) => readNumber(t, '%'))).toEqual([12, -3.5, 4, 40, 40, null, null, null, null]);
  });

  it('a number is read back as it is shown', () => {
    fc.assert(
      fc.property(fc.integer({ min: -6000, max: 6000 }), (tenths) => {
        expect(readAmount(`${tenths / 10} ms`, 'ticks', 960)).toEqual({ value: tenths / 10, unit: 'ms' });
      }),
    );
  });
});

describe('small amounts in three units', () => {
  it('a 1/192 note is 20 ticks at 960 PPQ, 8.7 ms at 144 BPM', () => {
    // common practice (no source)
    expect(describeTicks(20, 960, 144)).toBe('20 ticks · 1/192 · 8.7 ms');
  });

  it('a fraction is told only where people can read it', () => {
    // 7 ticks are 1/549 of a whole note: nobody counts in those.
    expect(describeTicks(7, 960, 120)).toBe('7 ticks · 3.6 ms');
    expect(threeUnits(19.2, 960, 120).noteFraction).toBe(192);
    expect(threeUnits(240, 960, 120).noteFraction).toBe(16);
    expect(threeUnits(320, 960, 120).noteFraction).toBe(12);
    expect(threeUnits(0, 960, 120).noteFraction).toBeNull();
  });
});

describe('guessing', () => {
  it('is the upper tail of the binomial distribution', () => {
    // source: any table of the binomial distribution, n = 10, p = ½: P(X ≥ 8) = 56/1024, P(X ≥ 9) = 11/1024
    expect(guessing(8, 10)).toBeCloseTo(56 / 1024, 9);
    expect(guessing(9, 10)).toBeCloseTo(11 / 1024, 9);
    expect(guessing(0, 7)).toBeCloseTo(1, 9);
    expect(guessing(3, 3)).toBeCloseTo(1 / 8, 9);
  });
});
