import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { BRING, EXPORT, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';
import { Bringing } from './bringing';
import { Exporter } from './exporter';
import { Exporting } from './exporting';

/** Files that are written from the open song, and those that come into it. */
export const filesRoom: Provider[] = [
  Exporter,
  Bringing,
  Exporting,
  provideFootStrip(BRING, () => import('../strips').then((m) => m.BringStrip)),
  provideFootStrip(EXPORT, () => import('../strips').then((m) => m.ExportStrip)),
  provideCommands(() => {
    const exporter = inject(Exporter);
    const bringing = inject(Bringing);
    const panels = inject(Panels);
    return [
      command('File', 'Export the corrected MIDI file', ['$mod+s'], () => void exporter.midi('corrected')),
      command('File', 'Export the MIDI file as played', [], () => void exporter.midi('played')),
      command('File', 'Export a track, part, loop or selection', ['Shift+d'], () => toggleStrip(panels, EXPORT)),
      command('File', 'Save the song file', ['$mod+Shift+s'], () => void exporter.songFile()),
      command('File', 'Save the song file to another place', [], () => void exporter.songFile({ elsewhere: true })),
      command('File', 'Bring a MIDI file into this song', [], () => void bringing.choose()),
    ];
  }),
];
