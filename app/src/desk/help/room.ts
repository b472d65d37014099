import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { GUIDE, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';

/** The guide, where it is needed. */
export const helpRoom: Provider[] = [
  provideFootStrip(GUIDE, () => import('./guide-strip').then((m) => m.GuideStrip)),
  provideCommands(() => {
    const panels = inject(Panels);
    return [command('Help', 'Guide: the walks, step by step', ['F1'], () => toggleStrip(panels, GUIDE))];
  }),
];
