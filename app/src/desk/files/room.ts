import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { Exporter } from './exporter';

/** Files that are written from the open song. */
export const filesRoom: Provider[] = [
  Exporter,
  provideCommands(() => {
    const exporter = inject(Exporter);
    return [
      command('File', 'Export the corrected MIDI file', ['$mod+s'], () => void exporter.midi('corrected')),
      command('File', 'Export the MIDI file as played', [], () => void exporter.midi('played')),
    ];
  }),
];
