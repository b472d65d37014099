import { inject, type Provider } from '@angular/core';
import { FocusOrigin } from '../../common/focus-origin';
import { Theme } from '../../common/theme';
import { command, holding, provideCommands } from './command';
import { COMMAND_LIST } from './command-list';
import { Commands } from './commands';
import { HeldKey } from './held-key';
import { Panels } from './panels';
import { Pointing } from './pointing';
import { VERBS } from './verb';

/** What the rooms of the desk stand on. */
export const kit: Provider[] = [
  FocusOrigin,
  Panels,
  Commands,
  HeldKey,
  Pointing,
  provideCommands(() => {
    const panels = inject(Panels);
    const theme = inject(Theme);
    return [
      command('Show', 'Light or dark', [], () => theme.toggle()),
      command('Show', 'All commands', ['$mod+k', 'Shift+?', '?'], () => panels.open(COMMAND_LIST)),
    ];
  }),
];

/** A command for each verb; last, so that a list of commands begins with what is pressed most. */
export const verbs: Provider[] = [
  provideCommands(() => {
    const pointing = inject(Pointing);
    const all = (inject(VERBS, { optional: true }) ?? []).flat();
    return all.map((verb) => holding(verb.group, verb.name, verb.keys, () => pointing.begin(verb)));
  }),
];
