import fc from 'fast-check';
import { median, middleInterval, noiseOf, orderOf } from '@early-sparrow/core/maths';
import { pinkNoise, quickNormal, stream } from '../../tools/accuracy/perform';

const SD = 10;

function normals(seed: number, count: number): Float64Array {
  return Float64Array.from({ length: count }, (_, i) => SD * quickNormal(seed, i, 5));
}

/** Half of the variance is 1/f, which is how people err against a click: Hennig et al. 2011, PLoS ONE 6:e26457. */
function playing(seed: number, count: number): Float64Array {
  const slow = pinkNoise(seed);
  return normals(seed, count).map((v, i) => Math.SQRT1_2 * (v + SD * slow(i)));
}

describe('the interval of a median of offsets', () => {
  it('holds nine truths in ten, under white and under long-range correlated noise', () => {
    for (const noise of [normals, playing]) {
      let held = 0;
      const runs = 200;
      for (let seed = 0; seed < runs; seed++) {
        const values = noise(seed, 100 + Math.floor(stream(seed, 3)() * 300));
        const { low, high } = middleInterval(values, median(values));
        if (low <= 0 && high >= 0) held++;
      }
      expect(held / runs).toBeGreaterThanOrEqual(0.9);
    }
  });

  it('is narrow where the noise is white: not more than three times the least', () => {
    const widths = Array.from({ length: 40 }, (_, seed) => {
      const { low, high } = middleInterval(normals(seed, 200), 0);
      return high - low;
    });
    // source: the median's standard error is 1.2533 sd / √n (any statistics text).
    expect(median(widths)).toBeLessThan((3 * 2 * 1.96 * 1.2533 * SD) / Math.sqrt(200));
  });

  it('tells white noise from noise that is alike for long', () => {
    expect(noiseOf(normals(1, 4000)).octave).toBeLessThan(2);
    expect(noiseOf(playing(1, 4000)).octave).toBeGreaterThan(3);
    expect(noiseOf(new Float64Array(0))).toEqual({ white: 0, octave: 0 });
  });

  it('is a point where nothing varies, and wild values do not widen it', () => {
    expect(middleInterval(Float64Array.of(5), 5)).toEqual({ low: 5, high: 5 });
    const calm = normals(3, 200);
    const wild = calm.map((v, i) => (i % 50 === 7 ? 400 : v));
    const width = (values: Float64Array) => middleInterval(values, 0).high - middleInterval(values, 0).low;
    expect(width(wild)).toBeLessThan(2 * width(calm));
  });
});

describe('the order of numbers', () => {
  it('is that of a stable sort, however far they are from being in order', () => {
    const few = fc.array(fc.nat(30), { maxLength: 60 });
    fc.assert(
      fc.property(few, few, (numbers, places) => {
        const nearly = [...numbers].sort((a, b) => a - b);
        places.forEach((at, k) => k < 3 && at < nearly.length && (nearly[at] = numbers[k % numbers.length]));
        for (const list of [numbers, nearly]) {
          expect([...orderOf(list)]).toEqual([...list.keys()].sort((a, b) => list[a] - list[b]));
        }
      }),
      { numRuns: 500 },
    );
  });
});
