import { readFileSync } from 'node:fs';
import { parseGrid } from '@early-sparrow/core/grid';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import { BUILT_IN_RECIPES, recipeFromJson, type Recipe } from '@early-sparrow/core/recipe';
import { BUILT_IN_RULES, ruleFromJson, type Rule } from '@early-sparrow/core/rules';
import { grooveFromJson } from '@early-sparrow/core/smf';
import { DEFAULT_TREATMENT, type Groove, type Treatment } from '@early-sparrow/core/song';
import { readLimit, readShare, readTime, readWhole, readWord, UsageError } from './units';

/** The flags of `correct` that shape the treatment. */
export type TreatmentFlags = Partial<Record<TreatmentFlag, string>>;

export const TREATMENT_FLAGS = [
  'recipe',
  'grid',
  'strength',
  'times',
  'lines',
  'tolerance',
  'reach',
  'direction',
  'spread',
  'restart',
  'groove',
  'loudness',
  'with',
  'lengths',
  'lag',
  'push',
  'velocity',
  'humanize',
  'shape',
  'seed',
  'doubles',
] as const;
export type TreatmentFlag = (typeof TREATMENT_FLAGS)[number];

/** Builds a recipe from flags, on top of the one that `--recipe` names. @throws UsageError */
export function recipeFromFlags(flags: TreatmentFlags): Recipe {
  const base = flags.recipe ? loadRecipe(flags.recipe) : plainRecipe();
  let t: Treatment = base.treatment;
  const auto = { ...base.auto };
  const set = <S extends keyof Treatment>(stage: S, change: Partial<Treatment[S]>) => {
    t = { ...t, [stage]: { ...t[stage], ...change } };
  };
  const { grid, strength, times, lines, tolerance, reach, direction, spread, restart, groove, loudness } = flags;
  if (flags.with !== undefined) set('quantize', { on: true, with: readWith(flags.with) });
  if (grid !== undefined) {
    auto.grid = grid === 'auto';
    set('quantize', { on: true, ...(auto.grid ? {} : { grid: parseGrid(grid) }) });
  }
  if (strength !== undefined) set('quantize', { on: true, strength: readShare(strength, 'strength') });
  if (times !== undefined) set('quantize', { times: readWhole(times, 1, 16, 'times') });
  if (lines !== undefined) set('quantize', { lines: readWord(lines, ['nearest', 'follow'] as const, 'lines') });
  if (tolerance !== undefined)
    set('quantize', { tolerance: notNegative(readLimit(tolerance, 'tolerance'), 'tolerance') });
  if (reach !== undefined) {
    set('quantize', { reach: reach === 'none' ? null : notNegative(readLimit(reach, 'reach'), 'reach') });
  }
  if (direction !== undefined)
    set('quantize', { direction: readWord(direction, ['early', 'late', 'both'] as const, 'direction') });
  if (spread !== undefined) set('quantize', { spread: readShare(spread, 'spread') });
  if (restart !== undefined) {
    set('quantize', { grid: { ...t.quantize.grid, restart: readWord(restart, ['bar', 'song'], 'restart') } });
  }
  if (groove !== undefined) {
    // Timing is what was asked for; loudness only where that is said.
    const velocity = loudness === undefined ? 0 : readShare(loudness, 'loudness');
    set('quantize', { on: true, groove: { groove: loadGroove(groove), timing: 1, velocity } });
  } else if (loudness !== undefined) throw new UsageError('--loudness goes with --groove: name a groove.');
  if (flags.lengths !== undefined) set('lengths', readLengths(flags.lengths));
  if (flags.lag !== undefined) {
    auto.lag = flags.lag === 'auto';
    if (!auto.lag) set('lag', { on: true, amount: readTime(flags.lag, 'lag') });
  }
  if (flags.push !== undefined) set('push', { on: true, amount: readTime(flags.push, 'push') });
  if (flags.velocity !== undefined) set('velocity', readVelocity(flags.velocity));
  if (flags.humanize !== undefined) {
    const { value, unit } = readTime(flags.humanize, 'humanize');
    if (unit !== 'ms' || value < 0 || value > 500) {
      throw new UsageError(`--humanize ${flags.humanize}: write a time from 0 to 500 ms, such as 5ms.`);
    }
    set('humanize', { on: value > 0, start: value });
  }
  if (flags.shape !== undefined)
    set('humanize', { shape: readWord(flags.shape, ['even', 'bell', 'drift'] as const, 'shape') });
  if (flags.seed !== undefined) set('humanize', { seed: readWhole(flags.seed, 0, 0xffffffff, 'seed') });
  if (flags.doubles !== undefined) {
    set('settle', { dropDoubles: readWord(flags.doubles, ['keep', 'drop'], 'doubles') === 'drop' });
  }
  return { ...base, treatment: t, auto };
}

function plainRecipe(): Recipe {
  return {
    kind: 'early-sparrow-recipe',
    version: 1,
    name: 'From the command line',
    about: '',
    treatment: DEFAULT_TREATMENT,
    auto: { grid: false, lag: false },
  };
}

function loadRecipe(text: string): Recipe {
  const known = BUILT_IN_RECIPES.find((r) => r.name.toLowerCase() === text.toLowerCase());
  return known ?? recipeFromJson(readText(text, 'recipe'));
}

/** The rules that `--rule` names, built in or in files. @throws UsageError, RuleFileError */
export function loadRules(names: readonly string[]): Rule[] {
  return names.map(
    (text) =>
      BUILT_IN_RULES.find((r) => r.name.toLowerCase() === text.toLowerCase()) ?? ruleFromJson(readText(text, 'rule')),
  );
}

function loadGroove(text: string): Groove {
  const known = BUILT_IN_GROOVES.find((g) => g.groove.name.toLowerCase() === text.toLowerCase());
  return known?.groove ?? grooveFromJson(readText(text, 'groove'));
}

function readText(path: string, flag: string): string {
  try {
    return readFileSync(path, 'utf8');
  } catch {
    throw new UsageError(`--${flag} ${path}: there is no such file, and no built-in ${flag} of that name.`);
  }
}

function notNegative<T extends { value: number }>(limit: T, flag: string): T {
  if (limit.value < 0) throw new UsageError(`--${flag}: write an amount that is not negative.`);
  return limit;
}

/** `line`, `steps`, `legato`, `legato:10ms`, `fixed:1/16`, `end` (ends stay when starts move), `none`. */
function readLengths(text: string): Partial<Treatment['lengths']> {
  const [mode, argument] = text.split(':');
  if (mode === 'none') return { on: false };
  if (mode === 'end') return { on: true, keep: 'end', mode: 'none' };
  if (mode === 'fixed') {
    const note = /^1\/(\d+)$/.exec(argument ?? '');
    if (!note || Number(note[1]) < 1 || Number(note[1]) > 512)
      throw new UsageError(`--lengths ${text}: write a note value, such as fixed:1/16.`);
    return { on: true, mode: 'fixed', fixed: 4 / Number(note[1]) };
  }
  const known = readWord(mode, ['line', 'steps', 'legato'], 'lengths');
  const gap = argument && known === 'legato' ? { gap: readTime(argument, 'lengths') } : {};
  return { on: true, mode: known, ...gap };
}

/** `2`, `Brush kit` or `Brush kit:played`: a track as analyse numbers or names it, which is looked for in each file. */
function readWith(text: string): NonNullable<Treatment['quantize']['with']> {
  const played = /^(.+):played$/.exec(text);
  const track = (played?.[1] ?? text).trim();
  if (!track) throw new UsageError('--with: name the track to line up with, by its number or its name.');
  return { track, as: played ? 'played' : 'corrected' };
}

/** `50%` (distances to the mean), `+8` or `-8` (level), `=90` (all equal); several with commas. */
function readVelocity(text: string): Partial<Treatment['velocity']> {
  const change: { on: boolean; scale?: number; level?: number; fixed?: number } = { on: true };
  for (const item of text.split(',')) {
    const match = /^\s*([=+-]?)(\d+(?:\.\d+)?)(%?)\s*$/.exec(item);
    if (!match)
      throw new UsageError(
        `--velocity ${text}: write 50% (less contrast), +8 or -8 (louder, softer) or =90 (all equal).`,
      );
    const value = Number(match[2]);
    if (match[3]) change.scale = Math.min(2, value / 100);
    else if (match[1] === '=') change.fixed = readWhole(match[2], 1, 127, 'velocity');
    else change.level = Math.max(-127, Math.min(127, match[1] === '-' ? -value : value));
  }
  return change;
}
