import fc from 'fast-check';
import { gainsFor, logDensity } from '../src/follow/gains';
import type { PlayerModel, Wander } from '../src/follow/model';
import type { Offsets } from '../src/follow/offsets';
import { together } from './player-model';

const STEP_MS = 125;
const number = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const wander: fc.Arbitrary<Wander> = fc.oneof(
  fc.constant<Wander>({ kind: 'steady' }),
  fc.record({ kind: fc.constant('returning' as const), spread: number(0.05, 0.9), pull: number(0.003, 0.5) }),
  fc.record({ kind: fc.constant('walk' as const), tau: number(0.01, 0.1) }),
);
const model: fc.Arbitrary<PlayerModel> = fc.record({ sigma: number(0.03, 0.4), wander });

const takeOf = (chords: readonly (readonly [number, number])[]): Offsets => ({
  offset: Float64Array.from(chords, ([offset]) => offset),
  gap: Float64Array.from(chords, ([, gap]) => gap),
  stepMs: STEP_MS,
});

/** The multivariate normal log density by Cholesky's decomposition (Golub & Van Loan, Matrix Computations, 4.2). */
function densityByDefinition({ offset, gap, stepMs }: Offsets, player: PlayerModel): number {
  let last = -gap[0];
  const at = gap.map((g) => (last += g));
  const rows: number[][] = [];
  let nats = -0.5 * offset.length * Math.log(2 * Math.PI);
  const solved: number[] = [];
  offset.forEach((d, i) => {
    const row: number[] = [];
    for (let j = 0; j <= i; j++) {
      const other = j === i ? row : rows[j];
      const own = i === j ? player.sigma ** 2 : 0;
      const rest = own + together(player, at, stepMs, i, j) - row.reduce((sum, v, k) => sum + v * other[k], 0);
      row.push(j === i ? Math.sqrt(rest) : rest / other[j]);
    }
    rows.push(row);
    solved.push((d - solved.reduce((sum, v, k) => sum + v * row[k], 0)) / row[i]);
    nats -= Math.log(row[i]) + solved[i] ** 2 / 2;
  });
  return nats;
}

describe('what a player’s model says of offsets', () => {
  it('is the normal density that the model defines', () => {
    const chords = fc.array(fc.tuple(number(-1, 1), number(0.25, 40)), { minLength: 1, maxLength: 24 });
    fc.assert(
      fc.property(chords, model, (given, player) => {
        const take = takeOf(given);
        expect(logDensity(take, player)).toBeCloseTo(densityByDefinition(take, player), 6);
      }),
    );
  });

  it('is the same for a long take, which is gone through some chords at a time', () => {
    fc.assert(
      fc.property(fc.integer({ min: 2001, max: 4000 }), model, fc.integer(), (count, player, seed) => {
        const take = takeOf(Array.from({ length: count }, (_, i) => [Math.sin(i * seed), 0.25 + (i % 7)] as const));
        const { left, drift, lag, precision, logs } = gainsFor(take, player);
        let [x, m, squares] = [0, 0, 0];
        take.offset.forEach((d, i) => {
          if (left && i > 0) x *= left[i];
          const error = d - x - m;
          x += drift[i] * error;
          m += lag[i] * error;
          squares += error * error * precision[i];
        });
        expect(logDensity(take, player)).toBeCloseTo(-0.5 * (logs + squares), 5);
      }),
      { numRuns: 40 },
    );
  });
});
