import { barPattern, grid, isSwung, type Grid } from '../grid';
import { firstAt } from '../maths';
import type { MeterPiece } from '../time';

/** What a bar is made of, in ticks. */
type Bar = Pick<MeterPiece, 'numerator' | 'denominator' | 'barTicks' | 'beatTicks'>;

/** Lines within this many ticks are one, as in {@link barPattern}. */
const SAME = 0.5;

/**
 * How strong the places of a beat are: the weight of the prior on how often each is played. A place that no division
 * of these has is weak. Rhythms sit on strong places more often than on weak ones (Longuet-Higgins & Lee 1984, Music
 * Perception 1:4; Temperley 2007, Music and Probability); the weights were chosen on generated players (docs/accuracy.md).
 */
const STRENGTHS: readonly (readonly [parts: number, strength: number])[] = [
  [1, 2],
  [2, 1],
  [4, 0.5],
  [3, 0.4],
];
/** In compound meters the beat is of three, and its halves are the odd ones. */
const COMPOUND: readonly (readonly [parts: number, strength: number])[] = [
  [1, 2],
  [3, 1],
  [6, 0.5],
  [4, 0.4],
];
const WEAK = 0.3;

/** Whether a meter's beats are of three: 6/8, 9/8, 12/8 and the like. */
export function isCompound({ numerator, denominator }: Pick<Bar, 'numerator' | 'denominator'>): boolean {
  return denominator >= 8 && numerator > 3 && numerator % 3 === 0;
}

/** How strong a place in a bar is, in ticks from the bar line. */
export function strengthAt(place: number, bar: Bar): number {
  const compound = isCompound(bar);
  const beat = compound ? 3 * bar.beatTicks : bar.beatTicks;
  for (const [parts, strength] of compound ? COMPOUND : STRENGTHS) {
    const step = beat / parts;
    if (Math.abs(place - Math.round(place / step) * step) <= SAME) return strength;
  }
  return WEAK;
}

/**
 * How strong each line of a grid is in a bar, in their order. A swung line counts as the straight place that it stands
 * for.
 */
export function lineStrengths(g: Grid, bar: Bar, ppq: number): Float64Array {
  const { lines } = barPattern(g, bar.barTicks, ppq);
  if (!isSwung(g)) return lines.map((line) => strengthAt(line, bar));
  const alone = { ...g, mix: null };
  const swung = barPattern(alone, bar.barTicks, ppq).lines;
  const straight = barPattern({ ...alone, swing: 0.5 }, bar.barTicks, ppq).lines;
  const mixed = g.mix ? barPattern(grid(g.mix.value, g.mix.shape), bar.barTicks, ppq).lines : [];
  const at = (places: ArrayLike<number>, line: number) =>
    Array.prototype.findIndex.call(places, (p: number) => Math.abs(p - line) <= SAME);
  return lines.map((line) => {
    const k = at(swung, line);
    const own = k >= 0 ? strengthAt(straight[k], bar) : 0;
    return Math.max(own, k < 0 || at(mixed, line) >= 0 ? strengthAt(line, bar) : 0);
  });
}

/** Index of the line at a place in the bar; the first for a place behind them all. */
export function lineAt(lines: Float64Array, place: number): number {
  const k = firstAt(lines, place - SAME);
  return k < lines.length ? k : 0;
}
