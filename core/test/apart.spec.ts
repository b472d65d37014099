import fc from 'fast-check';
import { followLines } from '@early-sparrow/core/follow';
import { gridLines } from '@early-sparrow/core/grid';
import { analysePlaces } from '@early-sparrow/core/insight';
import { median } from '@early-sparrow/core/maths';
import { MeterMap, TempoMap } from '@early-sparrow/core/time';
import { freeTake } from '../../tools/accuracy/free';
import { takeOf } from '../../tools/accuracy/wanders';
import type { PlayerModel } from '../src/follow/model';
import type { Offsets } from '../src/follow/offsets';
import { smoothPath } from '../src/follow/path';
import { together } from './player-model';

/** Solves a system of linear equations by elimination (any text on linear algebra). */
function solved(matrix: number[][], right: number[]): number[] {
  const rows = matrix.map((row, i) => [...row, right[i]]);
  rows.forEach((pivot, k) => {
    for (let i = k + 1; i < rows.length; i++) {
      const by = rows[i][k] / pivot[k];
      for (let j = k; j <= rows.length; j++) rows[i][j] -= by * pivot[j];
    }
  });
  const x = new Array<number>(rows.length).fill(0);
  for (let i = rows.length - 1; i >= 0; i--) {
    const known = x.reduce((sum, value, j) => sum + (j > i ? rows[i][j] * value : 0), 0);
    x[i] = (rows[i][rows.length] - known) / rows[i][i];
  }
  return x;
}

const models = fc.oneof(
  fc.constant<PlayerModel>({ sigma: 0.1, wander: { kind: 'steady' } }),
  fc.constant<PlayerModel>({ sigma: 0.05, wander: { kind: 'walk', tau: 0.06 } }),
  fc.constant<PlayerModel>({ sigma: 0.03, wander: { kind: 'returning', spread: 0.4, pull: 0.05 } }),
);
const offsets = fc.array(
  fc.record({
    offset: fc.double({ min: -0.5, max: 0.5, noNaN: true }),
    gap: fc.double({ min: 0.25, max: 9, noNaN: true }),
  }),
  { minLength: 2, maxLength: 12 },
);

describe('how far a chord is from where the other chords put the player’s time', () => {
  it('is what it is from the conditional mean given the others', () => {
    // source: the normal distribution of some values given others, any text on statistics
    fc.assert(
      fc.property(models, offsets, (model, chords) => {
        const stepMs = 125;
        const data: Offsets = {
          offset: Float64Array.from(chords, (c) => c.offset),
          gap: Float64Array.from(chords, (c) => c.gap),
          stepMs,
        };
        const at: number[] = [];
        chords.forEach(({ gap }, i) => at.push(i === 0 ? 0 : at[i - 1] + gap));
        const { apart } = smoothPath(data, model);
        chords.forEach(({ offset }, i) => {
          const others = chords.map((_, j) => j).filter((j) => j !== i);
          const matrix = others.map((j) =>
            others.map((k) => together(model, at, stepMs, j, k) + (j === k ? model.sigma ** 2 : 0)),
          );
          const weights = solved(
            matrix,
            others.map((j) => chords[j].offset),
          );
          const told = others.reduce((sum, j, k) => sum + together(model, at, stepMs, i, j) * weights[k], 0);
          expect(apart[i]).toBeCloseTo(offset - told, 6);
        });
      }),
      { numRuns: 200 },
    );
  });

  it('is about the unevenness that a player has who wanders', () => {
    const ratios = (['rubato', 'returning', 'walk', 'deep', 'far'] as const).flatMap((player) =>
      Array.from({ length: 4 }, (_, i) => {
        const { plan, performed } = takeOf(player, 640_000 + i);
        const { place, time } = performed;
        const { apart } = followLines(place, gridLines(plan.grid, time), time, plan.grid);
        // Half of a normal distribution lies within 0.6745 standard deviations.
        return median(apart.map(Math.abs)) / (0.6745 * plan.jitterMs);
      }),
    );
    ratios.sort((a, b) => a - b);
    expect(ratios[ratios.length >> 1]).toBeGreaterThan(0.9);
    expect(ratios[ratios.length >> 1]).toBeLessThan(1.25);
    expect(ratios[2]).toBeGreaterThan(0.7);
  });

  it('is not next to nothing in playing without a click, which a drift could follow note for note', () => {
    const time = {
      meter: new MeterMap(960, [{ tick: 0, numerator: 4, denominator: 4 }]),
      tempo: new TempoMap(960, [{ tick: 0, usPerQuarter: 500_000 }]),
    };
    for (const kind of ['triplets', 'plain'] as const) {
      const { onsets } = freeTake(950_004, kind);
      const [best] = analysePlaces(
        Float64Array.from(onsets, (o) => (o.ms * 960) / 500),
        time,
      ).fits;
      expect(best.missMs).toBeGreaterThan(4);
      // Nobody is told that such playing lies near lines that stand still.
      expect(best.reason).toMatch(/^If the .* lines follow the player, most chords are within/);
    }
  });
});
