import { gridLines } from '@early-sparrow/core/grid';
import { followLines } from '@early-sparrow/core/follow';
import { analysePlaces, lagAgainst, salience } from '@early-sparrow/core/insight';
import { performPlan, wrongLines } from './perform';
import { takeOf, type Player } from './wanders';

/** Wrong lines where the lag is removed first as a recipe with this grid finds it: the nearest, and those that follow. */
export interface LagFirstScore {
  readonly nearest: number;
  readonly follow: number;
  readonly takes: number;
  /** Takes in which follow has more wrong lines than nearest, by over one chord in a hundred. */
  readonly worse: number;
}

/** @param accent how much louder notes on the beat are, on the average; what is heard is asked only where it is not 0 */
export function scoreLagFirst(player: Player, runs: number, seed: number, accent: number): LagFirstScore {
  let [chords, nearestWrong, followWrong, worse] = [0, 0, 0, 0];
  for (let i = 0; i < runs; i++) {
    const { plan } = takeOf(player, seed + i);
    const { place, line, time, heard } = performPlan({ ...plan, accent });
    const lines = gridLines(plan.grid, time);
    const analysis = analysePlaces(place, time, undefined, accent > 0 ? salience(heard) : undefined);
    const lag = lagAgainst(analysis, plan.grid, () => place, time)?.ms ?? 0;
    const without = place.map((t) => time.tempo.shift(t, -lag));
    const nearest = wrongLines(
      without.map((t) => lines.nearest(t)),
      line,
    );
    const follow = wrongLines(followLines(without, lines, time, plan.grid, undefined, true).line, line);
    chords += place.length;
    nearestWrong += nearest;
    followWrong += follow;
    if (follow > nearest + place.length / 100) worse++;
  }
  return { nearest: nearestWrong / chords, follow: followWrong / chords, takes: runs, worse };
}
