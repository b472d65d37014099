import fc from 'fast-check';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import { analyseColumns, analysePlaces, salience } from '@early-sparrow/core/insight';
import { newSong } from '@early-sparrow/core/song';
import { toColumns } from '@early-sparrow/core/treatment';
import { performPlan, quickNormal } from '../../tools/accuracy/perform';
import { middleOf, scoreAccents, takeOf } from '../../tools/accuracy/wanders';
import { note } from './build';

const PPQ = 960;
const meter = new MeterMap(PPQ, [{ tick: 0, numerator: 4, denominator: 4 }]);
const fast = { meter, tempo: new TempoMap(PPQ, [{ tick: 0, usPerQuarter: 60e6 / 170 }]) };
/** Every sixteenth, half a line late: it could as well be early. */
const place = Float64Array.from({ length: 240 }, (_, i) => 3840 + i * 240 + 118 + ((i * 7) % 5));
const GAP = 60_000 / 170 / 4;

/** Loud where the beat is, if the first chord is so many sixteenths behind it. */
const loudOn = (behind: number, loud = 95) =>
  salience(
    Array.from(place, (_, i) => ({ velocity: (i + behind) % 4 === 0 ? loud : 70 + (i % 3), pitch: 60, notes: 1 })),
  );

describe('accents', () => {
  it('tell which of two lags is meant, and that it is sure', () => {
    const late = analysePlaces(place, fast, undefined, loudOn(0));
    const early = analysePlaces(place, fast, undefined, loudOn(1));
    expect(analysePlaces(place, fast).lag?.sure).toBe(false);
    expect(late.lag?.ms).toBeCloseTo(GAP / 2, 0);
    expect(early.lag?.ms).toBeCloseTo(-GAP / 2, 0);
    expect([late.lag?.sure, early.lag?.sure]).toEqual([true, true]);
    // The other one is still there to choose.
    expect(early.readings.some((r) => Math.abs(r.lag.ms - GAP / 2) < 2)).toBe(true);
  });

  it('are those of the notes where a part is analysed', () => {
    const song = { ...newSong('Fast'), tempo: [{ tick: 0, usPerQuarter: Math.round(60e6 / 170) }] };
    const lagOf = (behind: number) => {
      const notes = Array.from(place, (at, i) =>
        note(i, at, { length: 100, velocity: (i + behind) % 4 === 0 ? 100 : 66, pitch: 60 }),
      );
      return analyseColumns(toColumns(notes), song).lag;
    };
    expect(lagOf(0)?.ms).toBeCloseTo(GAP / 2, 0);
    expect(lagOf(1)?.ms).toBeCloseTo(-GAP / 2, 0);
  });

  it('that are alike, or on weak places only, change nothing', () => {
    const plain = analysePlaces(place, fast);
    const alike = analysePlaces(place, fast, undefined, loudOn(0, 71));
    expect(alike.lag).toEqual(plain.lag);
    // Loud on the second and fourth sixteenth of the beat, under either lag: neither is the better for it.
    const weak = salience(Array.from(place, (_, i) => ({ velocity: i % 2 === 0 ? 70 : 71, pitch: 60, notes: 1 })));
    expect(analysePlaces(place, fast, undefined, weak).fits[0].text).toBe(plain.fits[0].text);
    fc.assert(
      fc.property(fc.integer({ min: 0, max: 60 }), (i) => {
        const { plan } = takeOf('steady', 600_000 + i);
        const { place: places, time, heard } = performPlan({ ...plan, chords: Math.min(120, plan.chords) });
        const [without, noise] = [analysePlaces(places, time), analysePlaces(places, time, undefined, salience(heard))];
        expect(noise.lag?.ms).toBe(without.lag?.ms);
      }),
      { numRuns: 8 },
    );
  });

  it('that are faint still tell, where nothing else does', () => {
    // Notes scatter by 8, those on the beat are louder by 6. Seen to fail first: the accents counted for nothing.
    const faint = (behind: number, seed: number) =>
      salience(
        Array.from(place, (_, i) => ({
          velocity: 70 + ((i + behind) % 4 === 0 ? 6 : 0) + 8 * quickNormal(seed, i, 5),
          pitch: 60,
          notes: 1,
        })),
      );
    for (const seed of [1, 2, 3, 4, 5, 6]) {
      expect(analysePlaces(place, fast, undefined, faint(0, seed)).lag?.ms).toBeCloseTo(GAP / 2, 0);
      expect(analysePlaces(place, fast, undefined, faint(1, seed)).lag?.ms).toBeCloseTo(-GAP / 2, 0);
    }
  });

  it('that tell next to nothing are none, however many notes there are', () => {
    // On the beat 0.8 louder where notes scatter by 8: nobody hears that. Seen to fail first: the lag was sure.
    const many = Float64Array.from({ length: 12_000 }, (_, i) => 3840 + i * 240 + 118 + ((i * 7) % 5));
    const behind = (by: number) =>
      salience(
        Array.from(many, (_, i) => ({
          velocity: 70 + ((i + by) % 4 === 0 ? 0.8 : 0) + 8 * quickNormal(11, i, 5),
          pitch: 60,
          notes: 1,
        })),
      );
    const plain = analysePlaces(many, fast);
    for (const by of [0, 1]) expect(analysePlaces(many, fast, undefined, behind(by)).lag).toEqual(plain.lag);
  });

  it('bring wandering takes back that lay a line beside', () => {
    const { plan } = takeOf('far', 500_011);
    const { place: places, time, heard, line } = performPlan({ ...plan, accent: 14 });
    const truth = middleOf({ place: places, time, line });
    expect(Math.abs((analysePlaces(places, time).lag?.ms ?? 0) - truth)).toBeGreaterThan(100);
    const told = analysePlaces(places, time, undefined, salience(heard));
    expect(Math.abs((told.lag?.ms ?? 0) - truth)).toBeLessThan(10);
    const score = scoreAccents('far', 8, 500_004, 14);
    expect(score.offWithout).toBeGreaterThanOrEqual(3);
    expect(score.offWith).toBeLessThanOrEqual(1);
    expect(score.sureWith).toBe(0);
  });
});
