import * as z from 'zod';
import { analysePart, freeChords, lagAgainst, type Analysis, type Lag } from '../insight';
import { checkJson, parseJson, TreatmentSchema, timeOf, type Part, type SongTimes, type Treatment } from '../song';
import { partColumns } from '../treatment';

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
  return checkJson(parseJson(text, 'recipe', RecipeFileError), RecipeSchema, 'recipe', RecipeFileError);
}

/**
 * The treatment that a recipe gives a part, what is `auto` found from its notes.
 * @param analysis of the part, by the reading that counts; by default what the part alone tells
 */
export function applyRecipe(recipe: Recipe, part: Part, song: SongTimes, analysis?: Analysis): Treatment {
  const { treatment, auto } = recipe;
  if (!auto.grid && !auto.lag) return treatment;
  const found = analysis ?? analysePart(part, song);
  const best = found.fits[0];
  if (!best) return treatment;
  const { restart, shift } = treatment.quantize.grid;
  const grid = { ...best.grid, restart, shift };
  const quantize = auto.grid ? { ...treatment.quantize, grid } : treatment.quantize;
  const value = Math.round((recipeLag(recipe, part, song, found)?.ms ?? 0) * 10) / 10;
  const lag = auto.lag ? { on: value !== 0, amount: { value, unit: 'ms' as const } } : treatment.lag;
  return { ...treatment, quantize, lag };
}

/** The lag of a part against the grid that a recipe gives it; null where it has no notes. */
function recipeLag(recipe: Recipe, part: Part, song: SongTimes, found: Analysis): Lag | null {
  const { quantize } = recipe.treatment;
  // A grid of its own says which lines the lag is meant against; without one the lines that fit do.
  if (recipe.auto.grid || !quantize.on || quantize.groove) return found.lag;
  const time = timeOf(song);
  return lagAgainst(found, quantize.grid, () => freeChords(partColumns(part), time), time);
}
