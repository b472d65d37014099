import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { provideStrip } from '../kit/strip';
import { TempoFitting } from './tempo-fitting';
import { TempoStrip } from './tempo-strip';

/** Fitting the song's tempo to the playing. */
export const tempoRoom: Provider[] = [
  TempoFitting,
  provideStrip(() => {
    const fitting = inject(TempoFitting);
    return { id: 'tempo', place: 'picture', order: 20, isOpen: () => fitting.open(), component: TempoStrip };
  }),
  provideCommands(() => {
    const fitting = inject(TempoFitting);
    return [
      command('Tempo', 'Fit the tempo to the playing', ['Shift+f'], () => fitting.start()),
      command('Tempo', 'Tap along with the beat', ['Shift+n'], () => {
        fitting.start();
        fitting.tap();
      }),
    ];
  }),
];
