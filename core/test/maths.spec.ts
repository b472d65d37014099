import fc from 'fast-check';
import {
  idSet,
  inBlocks,
  inPieces,
  logRising,
  marked,
  median,
  medianOfFew,
  quantiles,
  sameNumbers,
  sortedQuantile,
} from '@early-sparrow/core/maths';
import { gammaln, median as medianElsewhere, quantileSorted } from 'simple-statistics';

const numbers = fc.array(fc.oneof(fc.integer({ min: -40, max: 40 }), fc.double({ noNaN: true, min: -1e6, max: 1e6 })), {
  minLength: 1,
  maxLength: 300,
});

describe('quantiles by selecting', () => {
  it('are those of the sorted numbers, in whatever order they are asked', () => {
    fc.assert(
      fc.property(numbers, fc.array(fc.double({ noNaN: true, min: 0, max: 1 }), { maxLength: 5 }), (values, shares) => {
        const sorted = Float64Array.from(values).sort();
        const before = [...values];
        expect(quantiles(values, shares)).toEqual(shares.map((p) => sortedQuantile(sorted, p)));
        expect(values).toEqual(before);
      }),
    );
  });

  it('have the median and the ends that a general library gives', () => {
    fc.assert(
      fc.property(numbers, (values) => {
        // source: simple-statistics, quantileSorted; at these shares all definitions agree.
        const sorted = [...values].sort((a, b) => a - b);
        const [low, middle, high] = quantiles(values, [0, 0.5, 1]);
        expect([low, high]).toEqual([sorted[0], sorted[sorted.length - 1]]);
        expect(middle).toBeCloseTo(quantileSorted(sorted, 0.5), 6);
      }),
    );
    expect(quantiles([], [0.5])).toEqual([NaN]);
  });
});

describe('the median', () => {
  it('is that of a general library, in lists and columns, of few numbers and many; what was given stays as it was', () => {
    fc.assert(
      fc.property(numbers, (values) => {
        // source: simple-statistics, median.
        const expected = medianElsewhere(values);
        const column = Float64Array.from(values);
        expect([median(values), median(column), medianOfFew([...values])]).toEqual([expected, expected, expected]);
        expect([...column]).toEqual(values);
      }),
    );
    expect([median([]), medianOfFew([])]).toEqual([NaN, NaN]);
  });
});

describe('a rising product', () => {
  it('has the logarithm that a general library gives, in whatever order it is asked', () => {
    const times = fc.oneof(fc.integer({ min: 0, max: 3000 }), fc.integer({ min: 19_990, max: 20_010 }));
    fc.assert(
      fc.property(
        fc.constantFrom(0.3, 0.5, 1, 2, 7.5),
        fc.array(times, { minLength: 1, maxLength: 9 }),
        (x, counts) => {
          // source: simple-statistics, gammaln.
          for (const n of counts) expect(logRising(x, n)).toBeCloseTo(gammaln(x + n) - gammaln(x), 6);
        },
      ),
    );
    // 1·2·3·4·5.
    expect(Math.exp(logRising(1, 5))).toBeCloseTo(120, 9);
    expect(logRising(0.5, 0)).toBe(0);
    // Where it is not remembered any more it goes on in the same way: one more factor is one more logarithm.
    expect(logRising(2, 20_001) - logRising(2, 20_000)).toBeCloseTo(Math.log(20_002), 6);
  });
});

describe('a set of ids', () => {
  it('has what a set has, whether its ids are close together or far apart', () => {
    const ids = fc.oneof(fc.array(fc.nat({ max: 60 })), fc.array(fc.nat()), fc.array(fc.maxSafeNat()));
    fc.assert(
      fc.property(ids, fc.array(fc.maxSafeNat()), (some, others) => {
        const set = new Set(some);
        const made = idSet(some);
        expect(made.size).toBe(set.size);
        for (const id of [...some, ...others, ...some.map((n) => n + 1), -1, 0.5, NaN]) {
          expect(made.has(id)).toBe(set.has(id));
        }
      }),
    );
  });
});

describe('the same numbers', () => {
  it('are found in columns of any kind, long or short, wherever they begin', () => {
    const kinds = [Float64Array, Uint32Array, Uint16Array, Uint8Array] as const;
    fc.assert(
      fc.property(
        fc.constantFrom(...kinds),
        fc.array(fc.nat(255), { maxLength: 40 }),
        fc.nat(),
        fc.nat(3),
        (Kind, list, at, skip) => {
          const own = Kind.from(list);
          const within = Kind.from([...list.slice(0, skip), ...list]).subarray(Math.min(skip, list.length));
          expect(sameNumbers(own, within)).toBe(true);
          if (list.length === 0) return;
          const other = Kind.from(list.map((n, i) => (i === at % list.length ? n + 1 : n)));
          expect(sameNumbers(own, other)).toBe(own[at % list.length] === other[at % list.length]);
          expect(sameNumbers(own, Kind.from([...list, 0]))).toBe(false);
        },
      ),
    );
    expect(sameNumbers(Float64Array.of(1, NaN), Float64Array.of(1, NaN))).toBe(true);
  });
});

describe('what is marked', () => {
  it('is told by its places, also over the borders of blocks', () => {
    const marks = Uint8Array.from({ length: 10_000 }, (_, i) => (i % 4096 < 2 || i % 7 === 0 ? 1 : 0));
    for (const some of [marks, marks.fill(1, 4000), new Uint8Array(5), new Uint8Array(0)]) {
      expect([...marked(some)]).toEqual([...some.keys()].filter((i) => some[i] === 1));
    }
  });
});

describe('work in pieces', () => {
  it('comes by every index once, in order', () => {
    for (const count of [0, 1, 19_999, 20_000, 50_001]) {
      const seen: number[] = [];
      const act = (from: number, to: number) => {
        for (let i = from; i < to; i++) seen.push(i);
      };
      const pieces = [...inPieces(count, act)].length;
      expect(seen).toHaveLength(count);
      expect(seen.every((index, i) => index === i)).toBe(true);
      expect(pieces).toBe(Math.ceil(count / 20_000));
    }
  });
});

describe('a long list in short calls', () => {
  it('is gone through from the first index to the last, each once', () => {
    fc.assert(
      fc.property(fc.nat({ max: 9000 }), fc.nat({ max: 9000 }), (begin, end) => {
        const seen: number[] = [];
        const act = (from: number, to: number) => {
          for (let i = from; i < to; i++) seen.push(i);
        };
        inBlocks(end, act, begin);
        expect(seen).toEqual(Array.from({ length: Math.max(0, end - begin) }, (_, k) => begin + k));
      }),
    );
  });
});
