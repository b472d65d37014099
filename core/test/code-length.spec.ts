import fc from 'fast-check';
import { parseGrid } from '@early-sparrow/core/grid';
import { plainCandidates, suggestGrids } from '@early-sparrow/core/insight';
import { hash3, normalQuantile } from '@early-sparrow/core/maths';
import { timeOf } from '@early-sparrow/core/song';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import { linesInBars } from '../src/insight/candidates';
import { adaptiveLength, codeLength } from '../src/insight/code-length';
import { barHistograms } from '../src/insight/histogram';
import { lineStrengths } from '../src/insight/strength';
import { song } from './build';

const plain = timeOf(song([]));
const normal = (seed: number, i: number) => normalQuantile((hash3(seed, i, 7) + 0.5) / 2 ** 32);

describe('code lengths', () => {
  it('are those of the formula, counted note by note', () => {
    const place = Float64Array.from({ length: 120 }, (_, i) => Math.round(3840 + i * 240 + normal(3, i) * 12)).sort();
    const bars = barHistograms(place, plain);
    const lines = linesInBars(parseGrid('1/16'), bars, 960);
    const barMs = 2000;
    // Directly: nearest of sixteen lines 125 ms apart, after a lag of 5 ms.
    const places = [...place].map((t) => ((t % 3840) / 3840) * barMs);
    const counts = new Float64Array(16);
    let sum = 0;
    for (const t of places) {
      // Those within a ms of each other are counted where they lie together.
      const alike = places.filter((p) => Math.round(p) === Math.round(t));
      const mean = alike.reduce((all, p) => all + p, 0) / alike.length;
      const line = Math.round((mean - 5) / 125);
      counts[((line % 16) + 16) % 16]++;
      sum += Math.abs(mean - 5 - line * 125);
    }
    const n = places.length;
    const b = (sum + 8) / (n + 2);
    const expected =
      n * Math.log2((2 * Math.E * b) / barMs) +
      Math.min(n * 4, adaptiveLength(counts, lines[0].strength, n)) +
      1 +
      (25 / 1250) * Math.LOG2E;
    expect(codeLength(bars, lines, 5)).toBeCloseTo(expected, 6);
  });

  it('of a programmed part know half a ms: of two lags the one with no miss at all is told', () => {
    // Swung eighths of 66.4 % with a few notes on the twelfths: two twelfths further on they are nearly on lines too.
    const time = {
      meter: new MeterMap(960, [{ tick: 0, numerator: 3, denominator: 4 }]),
      tempo: new TempoMap(960, [{ tick: 0, usPerQuarter: 392_156 }]),
    };
    const uses: [place: number, count: number][] = [
      [0, 133],
      [1 / 6, 4],
      [1 / 4, 22],
      [1 / 3, 24],
      [1 / 2, 25],
      [0.664, 126],
      [3 / 4, 17],
      [5 / 6, 4],
      [11 / 12, 4],
    ];
    const places = uses.flatMap(([at, count]) => Array.from({ length: count }, (_, k) => (3 + k + at) * 960));
    const place = Float64Array.from(places, Math.round).sort();
    const { fits } = suggestGrids(place, time);
    expect(Math.abs(fits[0].lagMs)).toBeLessThanOrEqual(1);
  });

  it('of Krichevsky and Trofimov agree with the sequential definition', () => {
    // source: Krichevsky & Trofimov 1981: the next symbol has probability (count + ½)/(n + k/2)
    const symbols = [0, 1, 0, 0, 2, 0, 1, 0, 0, 0];
    const seen = [0, 0, 0];
    let bits = 0;
    symbols.forEach((s, n) => {
      bits -= Math.log2((seen[s] + 0.5) / (n + 1.5));
      seen[s]++;
    });
    expect(adaptiveLength(Float64Array.from(seen), Float64Array.of(0.5, 0.5, 0.5), symbols.length)).toBeCloseTo(
      bits,
      9,
    );
  });

  it('of weights that differ agree with the sequential definition too', () => {
    // source: Pólya's urn: the next symbol has probability (count + weight)/(n + all weights)
    const weights = Float64Array.of(2, 1, 0.5, 0.3);
    fc.assert(
      fc.property(fc.array(fc.nat({ max: 3 }), { maxLength: 60 }), (symbols) => {
        const seen = new Float64Array(4);
        let bits = 0;
        symbols.forEach((s, n) => {
          bits -= Math.log2((seen[s] + weights[s]) / (n + 3.8));
          seen[s]++;
        });
        expect(adaptiveLength(seen, weights, symbols.length)).toBeCloseTo(bits, 8);
      }),
    );
  });

  it('expect beats before halves before quarters, in threes where the beat is dotted; swung lines as straight ones', () => {
    const bar = (numerator: number, denominator: number) =>
      new MeterMap(960, [{ tick: 0, numerator, denominator }]).pieces[0];
    const of = (text: string, n = 4, d = 4) => [...lineStrengths(parseGrid(text), bar(n, d), 960)];
    expect(of('1/16').slice(0, 5)).toEqual([2, 0.5, 1, 0.5, 2]);
    expect(of('1/8T').slice(0, 4)).toEqual([2, 0.4, 0.4, 2]);
    expect(of('1/32').slice(0, 4)).toEqual([2, 0.3, 0.5, 0.3]);
    expect(of('1/8 ~62%')).toEqual(of('1/8'));
    expect(of('1/16 ~57%')).toEqual(of('1/16'));
    // Beat, a quarter, the swung half, where the straight one is a line too.
    expect(of('1/8 ~60%+1/16').slice(0, 5)).toEqual([2, 0.5, 1, 1, 0.5]);
    expect(of('1/8', 6, 8)).toEqual([2, 1, 1, 2, 1, 1]);
    expect(of('1/16', 12, 8).slice(0, 6)).toEqual([2, 0.5, 1, 0.5, 1, 0.5]);
    expect(of('1/8', 7, 8)).toEqual([2, 2, 2, 2, 2, 2, 2]);
  });

  it('keep bars of different meters and tempi apart', () => {
    const time = {
      meter: new MeterMap(960, [
        { tick: 0, numerator: 4, denominator: 4 },
        { tick: 15360, numerator: 3, denominator: 4 },
      ]),
      tempo: new TempoMap(960, [
        { tick: 0, usPerQuarter: 500_000 },
        { tick: 26880, usPerQuarter: 800_000 },
      ]),
    };
    const place = Float64Array.from({ length: 200 }, (_, i) => i * 240);
    const bars = barHistograms(place, time);
    expect(bars.map((b) => [b.barTicks, Math.round(b.barMs)])).toEqual([
      [3840, 2000],
      [2880, 1500],
      [2880, 2400],
    ]);
    expect(suggestGrids(place, time).fits[0].text).toBe('1/16');
  });

  it('weigh every kind of grid once', () => {
    const texts = plainCandidates().map((c) => c.grid);
    expect(texts.length).toBeGreaterThan(30);
    expect(new Set(texts.map((g) => JSON.stringify(g))).size).toBe(texts.length);
  });
});
