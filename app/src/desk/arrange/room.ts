import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { PART, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';
import { PartActs } from './part-acts';
import { PartsGesture } from './parts-gesture';
import { SongRows } from './song-rows';

/** The song as a whole: its parts over all tracks. */
export const arrangeRoom: Provider[] = [
  SongRows,
  PartActs,
  PartsGesture,
  provideFootStrip(PART, () => import('../strips').then((m) => m.PartStrip)),
  provideCommands(() => {
    const acts = inject(PartActs);
    const rows = inject(SongRows);
    const panels = inject(Panels);
    return [
      command('Parts', 'Song view: all tracks and parts, or the low overview', ['Shift+o'], () => rows.toggle()),
      command('Parts', 'Parts: cut, join, move, repeat, name', ['Shift+p'], () => toggleStrip(panels, PART)),
      command('Parts', 'Cut the chosen parts at the playhead', [], () => acts.cutAtPlayhead()),
      command('Parts', 'Join the chosen parts', [], () => acts.join()),
      command('Parts', 'Repeat the chosen parts once', [], () => acts.repeat(1)),
      command('Parts', 'Move the chosen parts a bar earlier', [], () => acts.moveByBars(-1)),
      command('Parts', 'Move the chosen parts a bar later', [], () => acts.moveByBars(1)),
      command('Parts', 'Move the chosen parts a track up', [], () => acts.move(0, -1)),
      command('Parts', 'Move the chosen parts a track down', [], () => acts.move(0, 1)),
      command('Parts', 'Treat the chosen parts like the current one', [], () => acts.treatAlike()),
      command('Parts', 'Mute the chosen parts', [], () => acts.mute()),
      command('Parts', 'Delete the chosen parts', [], () => acts.remove()),
    ];
  }),
];
