import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { BRING } from '../kit/foot-strips';
import { provideFootStrip } from '../kit/strip';
import { Bringing } from './bringing';
import { Exporter } from './exporter';

/** Files that are written from the open song, and those that come into it. */
export const filesRoom: Provider[] = [
  Exporter,
  Bringing,
  provideFootStrip(BRING, () => import('./bring-strip').then((m) => m.BringStrip)),
  provideCommands(() => {
    const exporter = inject(Exporter);
    const bringing = inject(Bringing);
    return [
      command('File', 'Export the corrected MIDI file', ['$mod+s'], () => void exporter.midi('corrected')),
      command('File', 'Export the MIDI file as played', [], () => void exporter.midi('played')),
      command('File', 'Bring a MIDI file into this song', [], () => void bringing.choose()),
    ];
  }),
];
