import { FIRST_SPREAD, LAG_SD, type PlayerModel } from '../src/follow/model';

/**
 * How two chords' places vary together under a model, but for what each has of its own.
 * @param at where each chord is, in steps from the first one
 */
export function together({ wander }: PlayerModel, at: ArrayLike<number>, stepMs: number, i: number, j: number): number {
  const lag = (LAG_SD / stepMs) ** 2;
  if (wander.kind === 'steady') return lag;
  if (wander.kind === 'walk') return lag + FIRST_SPREAD ** 2 + wander.tau ** 2 * Math.min(at[i], at[j]);
  return lag + wander.spread ** 2 * Math.exp(-wander.pull * Math.abs(at[i] - at[j]));
}
