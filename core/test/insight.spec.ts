import { readFileSync } from 'node:fs';
import fc from 'fast-check';
import { gridLines, isSwung, parseGrid } from '@early-sparrow/core/grid';
import {
  analysePart,
  analysePlaces,
  audibleFrom,
  audibleShare,
  noteBeforePart,
  partOffsets,
  pitchTendencies,
  driftCurve,
} from '@early-sparrow/core/insight';
import { median, medianAbsoluteDeviation, medianOfPicked, sortedQuantile } from '@early-sparrow/core/maths';
import { readSmf } from '@early-sparrow/core/smf';
import { followLines } from '@early-sparrow/core/follow';
import { scoreFollow } from '../../tools/accuracy/follows';
import { scoreGrids } from '../../tools/accuracy/grids';
import { scoreDriftGrids, scoreWander, takeOf } from '../../tools/accuracy/wanders';
import { scoreLags } from '../../tools/accuracy/lags';
import { stream } from '../../tools/accuracy/perform';
import { note, part, song } from './build';
import { timeOf } from '@early-sparrow/core/song';

describe('statistics', () => {
  it('are NaN for nothing, and take numbers in any order and in columns', () => {
    expect(median([])).toBeNaN();
    expect(medianAbsoluteDeviation([])).toBeNaN();
    const values = Float64Array.of(9, 1, 4, 2);
    expect(median(values)).toBe(3);
    expect([...values]).toEqual([9, 1, 4, 2]);
    expect(medianAbsoluteDeviation(values)).toBe(1.5);
  });

  it('take quantiles by straight lines between the order statistics', () => {
    // source: Hyndman & Fan 1996, The American Statistician 50:4, type 7; values from its formula
    const sorted = [1, 2, 4, 9];
    expect([0, 0.25, 0.5, 0.75, 1].map((p) => sortedQuantile(sorted, p))).toEqual([1, 1.75, 3, 5.25, 9]);
    const numbers = fc.array(fc.double({ min: -1e6, max: 1e6, noNaN: true }), { minLength: 1, maxLength: 50 });
    fc.assert(
      fc.property(numbers, (values) => {
        const ascending = [...values].sort((a, b) => a - b);
        expect(sortedQuantile(ascending, 0.5)).toBeCloseTo(median(values), 6);
      }),
    );
  });

  it('of samples are those of their numbers, however often each is drawn', () => {
    const values = fc.array(fc.oneof(fc.constant(NaN), fc.constant(-0), fc.integer({ min: -5, max: 5 })), {
      minLength: 1,
      maxLength: 30,
    });
    const draws = fc.array(fc.array(fc.nat(), { maxLength: 60 }), { minLength: 2, maxLength: 4 });
    fc.assert(
      fc.property(values, draws, fc.integer({ min: 1, max: 5 }), (all, samples, fewest) => {
        const middle = medianOfPicked(all, fewest);
        for (const sample of samples) {
          const indices = sample.map((i) => i % all.length);
          const drawn = indices.map((i) => all[i]).filter((v) => !Number.isNaN(v));
          // Zeros of either sign are one.
          expect(middle(indices) + 0).toBe(drawn.length < fewest ? NaN : median(drawn) + 0);
        }
      }),
    );
  });
});

describe('what is heard', () => {
  it('is a displacement of 6 ms in fast sequences and of 2.5 % in slower ones', () => {
    // source: Friberg & Sundberg 1995, JASA 98:5
    expect(audibleFrom(150)).toBe(6);
    expect(audibleFrom(240)).toBeCloseTo(6, 9);
    expect(audibleFrom(600)).toBeCloseTo(15, 9);
    expect(audibleShare([0, 200, 400, 1000], [0, 7, -5, 14])).toBe(0.25);
  });
});

describe('the demo song', () => {
  const { song: ferry } = readSmf(new Uint8Array(readFileSync('app/public/demo/night-ferry.mid')), 'Night Ferry');
  const truth = JSON.parse(readFileSync('app/public/demo/night-ferry.truth.json', 'utf8')) as {
    tracks: { name: string; grid: string; lagMs: number; swing: number; firstBar: number }[];
  };
  const parts = ferry.tracks.filter((t) => t.parts.length > 0);

  it.each(truth.tracks.map((t, i) => [t.name, i] as const))('%s: grid, lag and swing are found', (_, i) => {
    const wanted = truth.tracks[i];
    const { fits, lag, swing } = analysePart(parts[i].parts[0], ferry);
    expect(fits[0].text.replace(/~.*%/, '~')).toBe(wanted.grid.replace(/~.*%/, '~'));
    expect(fits[0].merges).toBe(0);
    expect(Math.abs((lag?.ms ?? NaN) - wanted.lagMs)).toBeLessThan(2);
    if (wanted.swing === 0.5) expect(swing).toBeNull();
    else expect(Math.abs((swing?.share ?? NaN) - wanted.swing)).toBeLessThan(0.007);
  });

  it('the clarinet’s first note lies before its part', () => {
    const found = noteBeforePart(parts[4].parts[0], ferry);
    expect(found?.ms).toBeGreaterThan(10);
    expect(parts.slice(1, 4).map((t) => noteBeforePart(t.parts[0], ferry))).toEqual([null, null, null]);
  });

  it('tendencies tell early from late', () => {
    expect(partOffsets(parts[0].parts[0], ferry).played).toMatchObject({ median: expect.closeTo(-11, 0) });
    expect(partOffsets(parts[3].parts[0], ferry).played.late).toBeGreaterThan(0.9);
    expect(pitchTendencies(parts[2].parts[0], ferry).map((t) => t.pitch)).toEqual([36, 38, 42]);
    expect(driftCurve(parts[1].parts[0], ferry).every((p) => p.ms > 0 && p.ms < 40)).toBe(true);
  });

  it('draw a wandering player at a thousand places at most, to the end of a long take', () => {
    // Back and forth by 40 ticks, 21 ms at 120 BPM, in 5,000 chords; every ninth chord is far off.
    const drifts = (chords: number) => {
      const wander = (i: number) => 40 * Math.sin((2 * Math.PI * i) / 5000);
      const notes = Array.from({ length: chords }, (_, i) =>
        note(i, 3840 + i * 480 + Math.round(wander(i)) + (i % 9 === 4 ? 90 : 0), { length: 200 }),
      );
      const s = song(notes, { quantize: { on: true, grid: parseGrid('1/8') } });
      return driftCurve(part(s), s).map((p) => ({ ...p, truth: (wander((p.tick - 3840) / 480) * 500) / 960 }));
    };
    const [short, long] = [drifts(900), drifts(20_500)];
    expect([short.length, long.length]).toEqual([900, 1000]);
    expect(long[999].tick).toBeGreaterThan(3840 + 20_470 * 480);
    for (const p of [...short, ...long]) expect(Math.abs(p.ms - p.truth)).toBeLessThan(2.5);
  });
});

describe('grids, lags and swing of generated players', () => {
  it('are found as often as they should be', () => {
    const [dense, sparse] = scoreGrids(8);
    expect(dense.first / dense.runs).toBeGreaterThanOrEqual(0.9);
    expect(sparse.two / sparse.runs).toBeGreaterThanOrEqual(0.85);
    const lags = scoreLags(4);
    expect(lags.lagError).toBeLessThan(2);
    expect(lags.swingError).toBeLessThan(0.7);
    expect(lags.lagHeld).toBeGreaterThan(0.85);
    expect(lags.falseDrift).toBeLessThan(0.1);
  });

  it('are found where the player drifts by more than a quarter of a gap', () => {
    const score = scoreDriftGrids('rubato', 5, 4100);
    expect(score.first).toBeGreaterThanOrEqual(score.takes - 1);
    expect(score.drifting).toBeGreaterThanOrEqual(score.takes - 1);
    expect(median(score.lagErrors)).toBeLessThan(15);
    for (const points of score.swingErrors) expect(points).toBeLessThan(1.5);
  });

  it('have a swing whose interval holds the truth, however far the player wanders', () => {
    let [held, takes] = [0, 0];
    for (let seed = 3301; takes < 5; seed++) {
      const { plan, performed } = takeOf('deep', seed);
      if (!isSwung(plan.grid)) continue;
      takes++;
      const { swing } = analysePlaces(performed.place, performed.time);
      if (swing && swing.interval.low <= plan.grid.swing && plan.grid.swing <= swing.interval.high) held++;
    }
    expect(held).toBeGreaterThanOrEqual(4);
  });

  it('are not claimed where there is too little', () => {
    const s = song([0, 250, 470, 730, 950].map((t, i) => note(i, t)));
    expect(analysePart(part(s), s).sure).toBe(false);
    expect(analysePart(part(song([])), song([])).fits).toEqual([]);
  });
});

describe('follow', () => {
  it('is as good as nearest where there is no drift, at any jitter', () => {
    for (const jitter of [0.1, 0.3]) {
      const score = scoreFollow('', 4, jitter, 0);
      // A lag of a few ms that chance brings is followed as well.
      expect(score.follow - score.nearest).toBeLessThan(0.01);
      expect(score.steady).toBeGreaterThan(0.7);
    }
  });

  it('keeps rhythm and lines where a player drifts', () => {
    const slow = scoreFollow('', 3, 0.15, 0.03);
    expect(slow.follow).toBeLessThan(slow.nearest / 5);
    const fast = scoreFollow('', 3, 0.15, 0.06);
    expect(fast.followSteps).toBeLessThan(fast.nearestSteps / 10);
  });

  it('finds lag and drift as one where a player comes back to the click', () => {
    const scores = (['rubato', 'rush', 'steady'] as const).map((player) => scoreWander(player, 3, 100_002));
    for (const { nearest, follow } of scores) expect(follow).toBeLessThanOrEqual(nearest);
    const sum = (of: 'nearest' | 'follow') => scores.reduce((total, s) => total + s[of], 0);
    expect(sum('follow')).toBeLessThan(0.2 * sum('nearest'));
  });

  it('is not harmed by flams', () => {
    const score = scoreFollow('', 3, 0.1, 0.03, {}, 0.15);
    expect(score.follow).toBeLessThan(score.nearest / 5);
  });

  it('follows a drift of eight steps', () => {
    const random = stream(1, 1);
    const time = timeOf(song([]));
    const line = Float64Array.from({ length: 400 }, (_, i) => 9600 + i * 240);
    const place = line.map((l, i) => l + (i / 400) * 8 * 240 + (random() - 0.5) * 40);
    const { line: found } = followLines(place, gridLines(parseGrid('1/16'), time), time, parseGrid('1/16'));
    expect(found.reduce((n, l, i) => n + (l === line[i] ? 0 : 1), 0)).toBeLessThan(8);
  });

  it('keeps the order of chords, on any grid', () => {
    fc.assert(
      fc.property(
        fc.uniqueArray(fc.integer({ min: 0, max: 20_000 }), { minLength: 3, maxLength: 60 }),
        fc.constantFrom('1/16', '1/8T', '1/16+1/8T', '1/8 ~62%', '1/4.'),
        (places, text) => {
          const time = timeOf(song([]));
          const sorted = Float64Array.from(places).sort();
          const { line } = followLines(sorted, gridLines(parseGrid(text), time), time, parseGrid(text));
          for (let i = 1; i < line.length; i++) expect(line[i]).toBeGreaterThanOrEqual(line[i - 1]);
        },
      ),
      { numRuns: 25 },
    );
  });
});
