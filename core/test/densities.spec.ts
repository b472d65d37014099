import { densities } from '../src/follow/densities';
import fc from 'fast-check';

describe('densities of distances to two lines', () => {
  const distance = fc.float({ min: -2, max: 2, noNaN: true });

  it('are the normal density of both together, to a hundred-thousandth of its top', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(distance, distance)),
        fc.double({ min: 0.02, max: 0.5, noNaN: true }),
        (two, sigma) => {
          const top = 1 / (sigma * Math.sqrt(2 * Math.PI));
          const exact = (d: number) => top * Math.exp(-(d * d) / (2 * sigma * sigma));
          const [near, far] = [0, 1].map((k) => Float32Array.from(two, (d) => d[k]));
          densities(near, far, sigma).forEach((density, i) => {
            expect(Math.abs(density - exact(near[i]) - exact(far[i]))).toBeLessThan(1e-5 * top * 2);
          });
        },
      ),
    );
  });

  it('rule nothing out, however far the lines are', () => {
    const [density] = densities(Float32Array.of(-40), Float32Array.of(41), 0.04);
    expect(density).toBeGreaterThan(0);
  });
});
