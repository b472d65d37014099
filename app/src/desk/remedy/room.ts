import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { REMEDY, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';

/** What every track of the song needs, in one table. */
export const remedyRoom: Provider[] = [
  provideFootStrip(REMEDY, () => import('../strips').then((m) => m.RemedyStrip)),
  provideCommands(() => {
    const panels = inject(Panels);
    return [
      command('Show', 'Put the song right: what every track needs', ['Shift+j'], () => toggleStrip(panels, REMEDY)),
    ];
  }),
];
