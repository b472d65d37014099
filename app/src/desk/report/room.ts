import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { Panels } from '../kit/panels';
import { provideStrip } from '../kit/strip';

export const REPORT = 'report';

/** The timing report, which is fetched when it is first opened. */
export const reportRoom: Provider[] = [
  provideStrip(() => {
    const panels = inject(Panels);
    return {
      id: REPORT,
      place: 'foot',
      order: 0,
      isOpen: () => panels.isOpen(REPORT),
      component: () => import('./timing-report').then((m) => m.TimingReport),
      lazy: true,
    };
  }),
  provideCommands(() => {
    const panels = inject(Panels);
    return [command('Show', 'Timing report', ['Shift+m'], () => panels.toggle(REPORT))];
  }),
];
