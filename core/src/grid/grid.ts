import * as z from 'zod';
import { TimeAmountSchema } from '../time';

/** Note values from the whole to the sixty-fourth. */
export const GRID_VALUES = [1, 2, 4, 8, 16, 32, 64] as const;

/** Swing as the share of a pair that its first step takes: 0.5 is straight, 2/3 is the triplet. */
export const SWING_MIN = 0.25;
export const SWING_MAX = 0.8;
/** Most notes of a tuplet, and most of those in whose time they are played. */
export const MOST_IN_TUPLET = 15;

const ValueSchema = z.union(GRID_VALUES.map((v) => z.literal(v)));

/** `n` notes in the time of `m`. */
const TupletSchema = z.object({
  n: z.int().min(1).max(MOST_IN_TUPLET),
  m: z.int().min(1).max(MOST_IN_TUPLET),
});

const ShapeSchema = z.union([z.literal('straight'), z.literal('dotted'), TupletSchema]);

const StepSchema = z.object({ value: ValueSchema, shape: ShapeSchema });

/** A note value with its shape: what one step of a grid is. */
export type Step = Readonly<z.infer<typeof StepSchema>>;
export type GridShape = Step['shape'];
export type GridValue = Step['value'];

export const GridSchema = z.object({
  value: ValueSchema,
  shape: ShapeSchema,
  /** 0.25 to 0.80; it bends straight and dotted steps only. */
  swing: z.number().min(SWING_MIN).max(SWING_MAX),
  /** A second set of lines, joined to the first. */
  mix: StepSchema.nullable(),
  /** Added to every line. */
  shift: TimeAmountSchema,
  /** Where lines are counted from: each bar line, or the song's start. */
  restart: z.enum(['bar', 'song']),
});
export type Grid = Readonly<z.infer<typeof GridSchema>>;

export const TRIPLET = { n: 3, m: 2 } as const;

/** A plain grid: straight, no swing, no shift, counted from each bar. */
export function grid(value: GridValue, shape: GridShape = 'straight', more: Partial<Grid> = {}): Grid {
  return { value, shape, swing: 0.5, mix: null, shift: { value: 0, unit: 'ms' }, restart: 'bar', ...more };
}

/** Length of one step in quarter notes, as an exact fraction. */
export function stepFraction(step: Step): { num: number; den: number } {
  const ratio = step.shape === 'straight' ? [1, 1] : step.shape === 'dotted' ? [3, 2] : [step.shape.m, step.shape.n];
  const num = 4 * ratio[0];
  const den = step.value * ratio[1];
  const common = gcd(num, den);
  return { num: num / common, den: den / common };
}

/** Length of one step in ticks (fractional for most tuplets). */
export function stepTicks(step: Step, ppq: number): number {
  const { num, den } = stepFraction(step);
  return (ppq * num) / den;
}

/** Whether swing bends this grid's lines. */
export function isSwung(g: Pick<Grid, 'shape' | 'swing'>): boolean {
  return typeof g.shape === 'string' && g.swing !== 0.5;
}

/** Swing as an amount from 0 (straight) to 100 (the off-beat half a step late). */
export function swingAmount(swing: number): number {
  return (swing - 0.5) * 400;
}

/** Swing from an amount of 0 to 100; the inverse of {@link swingAmount}. */
export function swingFromAmount(amount: number): number {
  return 0.5 + amount / 400;
}

export function gcd(a: number, b: number): number {
  while (b) [a, b] = [b, a % b];
  return a;
}
