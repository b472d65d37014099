import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { toggleStrip, TRACK } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { provideFootStrip } from '../kit/strip';
import { TrackActs } from './track-acts';

/** The tracks: what each is called, how it sounds, and what is done with whole tracks. */
export const tracksRoom: Provider[] = [
  TrackActs,
  provideFootStrip(TRACK, () => import('../strips').then((m) => m.TrackStrip)),
  provideCommands(() => {
    const acts = inject(TrackActs);
    const panels = inject(Panels);
    return [
      command('Tracks', 'Track: name, instrument, channel, transposition, delay', ['Shift+i'], () =>
        toggleStrip(panels, TRACK),
      ),
      command('Tracks', 'Duplicate the track', [], () => acts.duplicate()),
      command('Tracks', 'Move the track up', [], () => acts.move(-1)),
      command('Tracks', 'Move the track down', [], () => acts.move(1)),
      command('Tracks', 'Split the track by channel', [], () => acts.split('channel')),
      command('Tracks', 'Split the track by drum or key', [], () => acts.split('key')),
      command('Tracks', 'Merge the chosen tracks', [], () => acts.merge()),
      command('Tracks', 'Delete the chosen tracks', [], () => acts.remove()),
    ];
  }),
];
