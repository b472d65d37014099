import { DEFAULT_TREATMENT, type Treatment } from '../song';
import type { Recipe } from './recipe';

type Stages = { readonly [S in keyof Treatment]?: Partial<Treatment[S]> };

function recipe(name: string, about: string, stages: Stages, auto: Partial<Recipe['auto']> = {}): Recipe {
  const t = DEFAULT_TREATMENT;
  return {
    kind: 'early-sparrow-recipe',
    version: 1,
    name,
    about,
    auto: { grid: false, lag: false, ...auto },
    treatment: {
      lag: { ...t.lag, ...stages.lag },
      quantize: { ...t.quantize, ...stages.quantize },
      lengths: { ...t.lengths, ...stages.lengths },
      push: { ...t.push, ...stages.push },
      velocity: { ...t.velocity, ...stages.velocity },
      humanize: { ...t.humanize, ...stages.humanize },
      settle: { ...t.settle, ...stages.settle },
    },
  };
}

const BOTH = { grid: true, lag: true } as const;

/** Recipes for usual tasks, with names of our own. */
export const BUILT_IN_RECIPES: readonly Recipe[] = [
  recipe(
    'Tight drums',
    'Removes the lag and pulls starts almost fully onto the best grid; close hits stay as they are.',
    { quantize: { on: true, strength: 0.92, tolerance: { value: 3, unit: 'ms' } } },
    BOTH,
  ),
  recipe(
    'Tight but breathing',
    'Two thirds of the way to the best grid; anything within 8 ms stays. Steady, not stiff.',
    { quantize: { on: true, strength: 0.66, tolerance: { value: 8, unit: 'ms' } } },
    BOTH,
  ),
  recipe(
    'The pianist’s feel',
    'Half of the way to the best grid. Chords keep half of their spread; wild notes stay where they are.',
    { quantize: { on: true, strength: 0.5, spread: 0.5, reach: { value: 80, unit: 'percent' } } },
    BOTH,
  ),
  recipe(
    'Joined bass',
    'Starts most of the way to the best grid, and each note held until the next one starts.',
    { quantize: { on: true, strength: 0.8 }, lengths: { on: true, mode: 'legato' } },
    BOTH,
  ),
  recipe(
    'Loosen the machine',
    'For a programmed part: starts drift by up to 9 ms as a player’s do, velocities by 8 %.',
    {
      humanize: { on: true, shape: 'drift', start: 9, velocity: 8 },
    },
  ),
  recipe(
    'Latency away',
    'Removes the steady lag of the whole part and leaves everything else as played.',
    {},
    { lag: true },
  ),
  recipe(
    'Wandering player',
    'Follows a player who drifts against the click, then goes three quarters of the way to those lines.',
    { quantize: { on: true, strength: 0.75, lines: 'follow' } },
    BOTH,
  ),
  recipe(
    'Only the strays',
    'Leaves everything within 15 ms alone and pulls what is further off all the way.',
    { quantize: { on: true, strength: 1, tolerance: { value: 15, unit: 'ms' } } },
    BOTH,
  ),
];
