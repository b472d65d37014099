import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { Panels } from '../kit/panels';
import { GridKeys } from './grid-keys';
import { Lifter } from './lifter';
import { DRAWER, RECIPES } from './names';

/** The treatment panel with its stages, recipes and versions. */
export const treatmentRoom: Provider[] = [
  Lifter,
  GridKeys,
  provideCommands(() => inject(GridKeys).commands()),
  provideCommands(() => {
    const panels = inject(Panels);
    return [
      command('Recipes', 'Open the recipes: use, save, rename', ['y'], () => panels.open(RECIPES)),
      command('Show', 'Treatment, where the window is narrow', [], () => panels.toggle(DRAWER)),
    ];
  }),
];
