import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { HISTORY, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';
import { Travelling } from './travelling';

/** What was done to the song, step by step. */
export const historyRoom: Provider[] = [
  Travelling,
  provideFootStrip(HISTORY, () => import('../strips').then((m) => m.HistoryStrip)),
  provideCommands(() => {
    const panels = inject(Panels);
    return [
      command('Undo', 'History: every step, to go to or to look at', ['Shift+h'], () => toggleStrip(panels, HISTORY)),
    ];
  }),
];
