import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { provideOverlay } from '../kit/overlay';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';
import { RULES, toggleStrip } from '../kit/foot-strips';
import { FoundOverlay } from './found-overlay';
import { Ruling } from './ruling';

/** Rules: what is done again and again by hand, as a sentence. */
export const rulesRoom: Provider[] = [
  Ruling,
  provideOverlay(FoundOverlay),
  provideFootStrip(RULES, () => import('../strips').then((m) => m.RuleStrip)),
  provideCommands(() => {
    const panels = inject(Panels);
    return [command('Shape', 'Rules: change notes by what they are', ['Shift+u'], () => toggleStrip(panels, RULES))];
  }),
];
