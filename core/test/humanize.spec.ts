import fc from 'fast-check';
import { linearRegression, mean, standardDeviation } from 'simple-statistics';
import { normalCdf, normalQuantile } from '@early-sparrow/core/maths';
import { tempoOf, type Humanize, type Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { wanderAt, makeWander } from '../src/treatment/wander';
import { shapeQuantile } from '../src/treatment/draws';
import { note, part, song, treated } from './build';

/** Moves of single notes in ms; 120 BPM, so a tick is 0.52 ms. */
function moves(humanize: Partial<Humanize>, count = 2000, seed = 1, chord = 1): number[] {
  const notes = Array.from({ length: count }, (_, i) =>
    note(i, 960 + Math.floor(i / chord) * 960, { pitch: 40 + (i % chord), length: 100 }),
  );
  const s = song(notes, { humanize: { on: true, seed, ...humanize } }, { ppq: 30000 });
  const { start } = treatPart(part(s), s);
  return part(s).notes.map((n, i) => ((start[i] - n.start) * 500) / 30000);
}

/** Kolmogorov–Smirnov distance to a distribution function. */
function ksDistance(values: number[], cdf: (x: number) => number): number {
  const sorted = [...values].sort((a, b) => a - b);
  return sorted.reduce(
    (most, x, i) => Math.max(most, Math.abs(cdf(x) - i / sorted.length), Math.abs(cdf(x) - (i + 1) / sorted.length)),
    0,
  );
}

/** Bound that a right distribution keeps in all but one of about a thousand samples (any statistics text). */
const ksBound = (n: number) => 1.95 / Math.sqrt(n);
const evenCdf = (x: number) => Math.min(1, Math.max(0, (x + 10) / 20));
const bellCdf = (x: number) => {
  const z = (x / 10) * 2.5;
  return z <= -2.5 ? 0 : z >= 2.5 ? 1 : (normalCdf(z) - normalCdf(-2.5)) / (1 - 2 * normalCdf(-2.5));
};

describe('the normal distribution', () => {
  it('has the values of the tables', () => {
    // source: Abramowitz & Stegun, table 26.1
    expect(normalCdf(1)).toBeCloseTo(0.841344746068543, 13);
    expect(normalCdf(-2)).toBeCloseTo(0.0227501319481792, 13);
    expect(normalCdf(4)).toBeCloseTo(0.999968328758167, 13);
    expect(normalQuantile(0.975)).toBeCloseTo(1.959963984540054, 10);
    fc.assert(
      fc.property(fc.double({ min: 1e-6, max: 1 - 1e-6, noNaN: true }), (p) =>
        expect(normalCdf(normalQuantile(p))).toBeCloseTo(p, 9),
      ),
    );
  });
});

describe('humanize', () => {
  it('draws even moves and bells as they should be, alone and in chords', () => {
    for (const chord of [1, 4]) {
      const even = moves({ shape: 'even', start: 10 }, 2000, 3, chord);
      const bell = moves({ shape: 'bell', start: 10 }, 2000, 4, chord);
      // A chord's notes are not independent: their number of independent draws is smaller.
      const n = chord === 1 ? 2000 : 500;
      expect(ksDistance(even, evenCdf)).toBeLessThan(ksBound(n));
      expect(ksDistance(bell, bellCdf)).toBeLessThan(ksBound(n));
    }
    // A normal of sd max/2.5 that is cut at its max keeps an sd of 0.38 of it.
    expect(standardDeviation(moves({ shape: 'bell', start: 10 }))).toBeCloseTo(3.82, 0);
    expect(standardDeviation(moves({ shape: 'even', start: 10 }))).toBeCloseTo(10 / Math.sqrt(3), 0);
  });

  it('never moves further than the largest move, whatever the shape, lean and seed', () => {
    fc.assert(
      fc.property(
        fc.constantFrom<Humanize['shape']>('even', 'bell', 'drift'),
        fc.constantFrom<Humanize['startLean']>('early', 'late', 'both'),
        fc.integer({ min: 0, max: 0xffffffff }),
        fc.double({ min: 0, max: 50, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (shape, startLean, seed, start, together) => {
          for (const move of moves({ shape, startLean, start, together }, 60, seed, 3)) {
            expect(Math.abs(move)).toBeLessThanOrEqual(start + 0.01);
            if (startLean === 'early') expect(move).toBeLessThanOrEqual(0.01);
            if (startLean === 'late') expect(move).toBeGreaterThanOrEqual(-0.01);
          }
        },
      ),
    );
  });

  it('all early, moves every note left, each by its own amount', () => {
    // common practice (no source)
    const all = moves({ shape: 'even', startLean: 'early', start: 50 }, 200);
    expect(all.every((m) => m < 0)).toBe(true);
    expect(new Set(all.map((m) => m.toFixed(2))).size).toBeGreaterThan(150);
  });

  it('keeps a chord together as far as wished', () => {
    const spreadOf = (together: number) => {
      const all = moves({ shape: 'even', start: 20, together }, 2000, 9, 2);
      return mean(Array.from({ length: 1000 }, (_, i) => Math.abs(all[2 * i] - all[2 * i + 1])));
    };
    expect(spreadOf(1)).toBeLessThan(0.1);
    expect(spreadOf(0.7)).toBeLessThan(spreadOf(0.3) * 0.8);
    // Two independent even draws are two thirds of the largest move apart in the mean.
    expect(spreadOf(0)).toBeCloseTo(40 / 3, 0);
  });

  it('does not change a note’s draw when others come and go, and a new seed changes all', () => {
    const base = song(
      Array.from({ length: 50 }, (_, i) => note(i, 960 * (i + 1))),
      { humanize: { on: true, start: 20 } },
    );
    const more = song([...part(base).notes, note(77, 960 * 20 + 400, { pitch: 70 })], {
      humanize: { on: true, start: 20 },
    });
    const byId = (s: Song) => new Map(part(s).notes.map((n, i) => [n.id, treatPart(part(s), s).start[i]]));
    const [a, b] = [byId(base), byId(more)];
    for (const [id, start] of a) expect(b.get(id)).toBe(start);
    const other = byId(treated(base, { humanize: { on: true, start: 20, seed: 2 } }));
    expect([...a].filter(([id, start]) => other.get(id) === start).length).toBeLessThan(5);
  });

  it('works as a slider: up and back again gives the same notes, and 0 those that were played', () => {
    const base = song(
      Array.from({ length: 50 }, (_, i) => note(i, 960 * (i + 1))),
      {},
    );
    const at = (start: number, length: number, velocity: number) => {
      const s = treated(base, { humanize: { on: true, start, length, velocity } });
      const r = treatPart(part(s), s);
      return [[...r.start], [...r.end], [...r.velocity]];
    };
    const first = at(7, 10, 12);
    at(30, 50, 60);
    expect(at(7, 10, 12)).toEqual(first);
    expect(at(0, 0, 0)).toEqual(at(0, 0, 0));
    expect(at(0, 0, 0)[0]).toEqual(part(base).notes.map((n) => n.start));
  });

  it('gives random velocities from a range, all of them', () => {
    const s = song(
      Array.from({ length: 800 }, (_, i) => note(i, 960 * i)),
      { humanize: { on: true, start: 0, velocityMode: 'range', low: 60, high: 69 } },
    );
    const { velocity } = treatPart(part(s), s);
    expect(new Set(velocity)).toEqual(new Set([60, 61, 62, 63, 64, 65, 66, 67, 68, 69]));
  });

  it('comes after velocity, or levelling would wipe it out', () => {
    const s = song(
      Array.from({ length: 50 }, (_, i) => note(i, 960 * i)),
      { velocity: { on: true, fixed: 80 }, humanize: { on: true, velocity: 20 } },
    );
    expect(new Set(treatPart(part(s), s).velocity).size).toBeGreaterThan(5);
  });
});

describe('drift', () => {
  it('has a 1/f spectrum: its exponent over 50 seeds is 1 ± 0.15', () => {
    // source: Hennig et al. 2011, PLoS ONE 6:e26457
    const n = 512;
    const power = new Float64Array(n / 2);
    for (let seed = 1; seed <= 50; seed++) {
      const drift = makeWander(seed, 240);
      const line = Array.from({ length: n }, (_, i) => wanderAt(drift, i * 240 + 100_000));
      for (let f = 1; f < n / 2; f++) {
        let re = 0;
        let im = 0;
        for (let i = 0; i < n; i++) {
          re += line[i] * Math.cos((2 * Math.PI * f * i) / n);
          im += line[i] * Math.sin((2 * Math.PI * f * i) / n);
        }
        power[f] += re * re + im * im;
      }
    }
    // Octave bands, so that the many high frequencies do not outvote the low ones.
    const bands: [number, number][] = [];
    for (let f = 2; f < n / 4; f *= 2) {
      const band = [...power.subarray(f, 2 * f)];
      bands.push([Math.log(f * Math.SQRT2), Math.log(mean(band))]);
    }
    expect(-linearRegression(bands).m).toBeGreaterThan(0.85);
    expect(-linearRegression(bands).m).toBeLessThan(1.15);
  });

  it('is standard normal everywhere and the same however it is read', () => {
    const values: number[] = [];
    for (let seed = 1; seed <= 1500; seed++) values.push(wanderAt(makeWander(seed, 240), 1e6 + 77));
    expect(ksDistance(values, normalCdf)).toBeLessThan(ksBound(1500));
    const drift = makeWander(5, 240);
    const forward = [100, 5000, 90_000].map((t) => wanderAt(drift, t));
    expect([90_000, 5000, 100].map((t) => wanderAt(makeWander(5, 240), t))).toEqual([...forward].reverse());
  });
});

it('shapes have their quantiles', () => {
  expect(shapeQuantile(0.5, 'bell', 'both')).toBeCloseTo(0, 12);
  expect([0, 1].map((u) => shapeQuantile(u, 'even', 'both'))).toEqual([-1, 1]);
  expect(shapeQuantile(1, 'bell', 'late')).toBeCloseTo(1, 9);
});

describe('humanize under tempo changes', () => {
  it('moves by ms, not by ticks: at half the tempo half as many ticks', () => {
    const notes = Array.from({ length: 400 }, (_, i) => note(i, 960 + i * 960, { length: 100 }));
    const tempo = [
      { tick: 0, usPerQuarter: 250_000 },
      { tick: 200 * 960, usPerQuarter: 1_000_000 },
    ];
    const s = song(notes, { humanize: { on: true, shape: 'even', start: 20, length: 0 } }, { tempo });
    const { start } = treatPart(part(s), s);
    const map = tempoOf(s);
    const ms = part(s).notes.map((n, i) => map.between(n.start, start[i]));
    for (const half of [ms.slice(0, 190), ms.slice(210)]) {
      // A tick is 0.26 ms here and 1.04 ms there: so much may the rounding add.
      expect(Math.max(...half.map(Math.abs))).toBeLessThanOrEqual(20 + 0.55);
      expect(Math.max(...half.map(Math.abs))).toBeGreaterThan(17);
    }
    const ticks = part(s).notes.map((n, i) => Math.abs(start[i] - n.start));
    expect(mean(ticks.slice(0, 190)) / mean(ticks.slice(210))).toBeGreaterThan(3);
  });
});
