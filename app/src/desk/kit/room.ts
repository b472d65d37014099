import { inject, type Provider } from '@angular/core';
import { FocusOrigin } from '../../common/focus-origin';
import { Theme } from '../../common/theme';
import { command, provideCommands } from './command';
import { COMMAND_LIST } from './command-list';
import { Commands } from './commands';
import { Panels } from './panels';

/** What the rooms of the desk stand on. */
export const kit: Provider[] = [
  FocusOrigin,
  Panels,
  Commands,
  provideCommands(() => {
    const panels = inject(Panels);
    const theme = inject(Theme);
    return [
      command('Show', 'Light or dark', [], () => theme.toggle()),
      command('Show', 'All commands', ['$mod+k', 'Shift+?', '?'], () => panels.open(COMMAND_LIST)),
    ];
  }),
];
