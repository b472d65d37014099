import { z } from 'zod';
import { analysePart, type Analysis } from '../insight';
import { TreatmentSchema, type Part, type Song, type Treatment } from '../song';

/** A saved treatment. What is `auto` is found anew from the notes that it is applied to. */
export const RecipeSchema = z.object({
  kind: z.literal('early-sparrow-recipe'),
  version: z.literal(1),
  name: z.string().min(1).max(200),
  /** What it does, in a sentence. */
  about: z.string().max(1000),
  treatment: TreatmentSchema,
  auto: z.object({ grid: z.boolean(), lag: z.boolean() }),
});
export type Recipe = Readonly<z.infer<typeof RecipeSchema>>;

/** A recipe file that cannot be read; the message says what is wrong. */
export class RecipeFileError extends Error {
  readonly code = 'recipe-file';
}

export function recipeToJson(recipe: Recipe): string {
  return `${JSON.stringify(recipe, null, 2)}\n`;
}

/** Reads a recipe from JSON text. @throws RecipeFileError */
export function recipeFromJson(text: string): Recipe {
  let value: unknown;
  try {
    value = JSON.parse(text.replace(/^\uFEFF/, ''));
  } catch {
    throw new RecipeFileError('This is not a recipe file: it is no JSON.');
  }
  const result = RecipeSchema.safeParse(value);
  if (result.success) return result.data;
  const [issue] = result.error.issues;
  throw new RecipeFileError(`This is not a recipe file: at ${issue.path.join('.') || 'its top'} ${issue.message}.`);
}

/** The treatment that a recipe gives a part, what is `auto` found from its notes. */
export function applyRecipe(recipe: Recipe, part: Part, song: Song, analysis?: Analysis): Treatment {
  const { treatment, auto } = recipe;
  if (!auto.grid && !auto.lag) return treatment;
  const found = analysis ?? analysePart(part, song);
  const best = found.fits[0];
  if (!best) return treatment;
  const { restart, shift } = treatment.quantize.grid;
  const grid = { ...best.grid, restart, shift };
  const quantize = auto.grid ? { ...treatment.quantize, grid } : treatment.quantize;
  const value = Math.round((found.lag?.ms ?? 0) * 10) / 10;
  const lag = auto.lag ? { on: value !== 0, amount: { value, unit: 'ms' as const } } : treatment.lag;
  return { ...treatment, quantize, lag };
}
