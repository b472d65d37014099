import { inject, Injectable } from '@angular/core';
import { COMMANDS, type Command } from './command';

/** In this order the groups are listed; others come behind them. */
const GROUPS = [
  'Listen',
  'Record',
  'Undo',
  'Point and key',
  'Notes',
  'Shape',
  'Select',
  'Parts',
  'Tracks',
  'Grid',
  'Tempo',
  'Recipes',
  'Show',
  'File',
];

/** Everything that the desk can do, as its rooms contribute it: keys and the searchable list are made from it. */
@Injectable()
export class Commands {
  readonly all: readonly Command[] = (inject(COMMANDS, { optional: true }) ?? [])
    .flat()
    .map((command, at) => ({ command, at, group: GROUPS.indexOf(command.group) }))
    .sort((a, b) => (a.group < 0 ? GROUPS.length : a.group) - (b.group < 0 ? GROUPS.length : b.group) || a.at - b.at)
    .map(({ command }) => command);
}
