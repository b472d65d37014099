import { inject, type Provider } from '@angular/core';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { command, holding, provideCommands, repeating } from '../kit/command';
import { provideLane } from '../kit/lane';
import { Panels } from '../kit/panels';
import { providePointer } from '../kit/pointer';
import { always, provideStrip } from '../kit/strip';
import { provideVerbs } from '../kit/verb';
import { AudioBar } from './audio-bar';
import { AudioImport } from './audio-import';
import { BlindCompare } from './blind-compare';
import { BlindTest } from './blind-test';
import { Hits } from './hits';
import { LoopGesture } from './loop-gesture';
import { Looping } from './looping';
import { Narrowing } from './narrowing';
import { SeekGesture } from './seek-gesture';
import { SoundLane } from './sound-lane';
import { SoundStrip } from './sound-strip';
import { SoundVerb } from './sound-verb';
import { Switching } from './switching';
import { WavExport } from './wav-export';

/** Name of the strip with click, voices and WAV files. */
export const SOUND = 'sound';

/** Playing, the loop, sound files that play along, WAV files, and comparing by ear. */
export const listeningRoom: Provider[] = [
  Looping,
  Narrowing,
  BlindTest,
  WavExport,
  AudioImport,
  Hits,
  Switching,
  providePointer(LoopGesture),
  providePointer(SeekGesture),
  provideLane(SoundLane),
  SoundVerb,
  provideVerbs(() => [inject(SoundVerb)]),
  provideStrip(() => ({ id: 'sound file', place: 'picture', order: 10, isOpen: always, component: AudioBar })),
  provideStrip(() => {
    const panels = inject(Panels);
    return { id: SOUND, place: 'foot', order: 20, isOpen: () => panels.isOpen(SOUND), component: SoundStrip };
  }),
  provideStrip(() => ({ id: 'blind compare', place: 'foot', order: 30, isOpen: always, component: BlindCompare })),
  provideCommands(() => {
    const player = inject(Player);
    const looping = inject(Looping);
    const listening = inject(ListeningSettings);
    const narrowing = inject(Narrowing);
    const panels = inject(Panels);
    const blind = inject(BlindTest);
    const hits = inject(Hits);
    const audio = inject(AudioImport);
    const switching = inject(Switching);
    return [
      command('Listen', 'Play or pause', ['Space'], () => player.toggle()),
      command('Listen', 'Back to the start', ['Home'], () => player.seek(0)),
      command('Listen', 'Switch between as played and corrected', ['Enter'], () => switching.toggle()),
      holding('Listen', 'Hear the other side, while held', ['Backslash'], () => {
        player.held.set(true);
        const letGo = () => player.held.set(false);
        return { drop: letGo, cancel: letGo };
      }),
      command('Listen', 'Loop on or off', ['l'], () => looping.toggle()),
      command('Listen', 'Click on or off', ['n'], () => listening.set({ click: !listening.values().click })),
      command('Listen', 'Loop the selection', ['Shift+l'], () => looping.overSelection()),
      command('Listen', 'Start the loop at the playhead', ['BracketLeft'], () => looping.edge('from')),
      command('Listen', 'End the loop at the playhead', ['BracketRight'], () => looping.edge('to')),
      repeating('Listen', 'Move the loop one bar earlier', ['Shift+BracketLeft'], () => looping.move(-1)),
      repeating('Listen', 'Move the loop one bar later', ['Shift+BracketRight'], () => looping.move(1)),
      command('Listen', 'Play from the selection', ['g'], () => narrowing.fromSelection()),
      command('Listen', 'Play only the selection', ['Shift+g'], () => narrowing.selectionAlone()),
      command('Listen', 'Half speed on or off', ['j'], () => player.rate.update((r) => (r === 1 ? 0.5 : 1))),
      command('Listen', 'Silence everything', ['Shift+x'], () => player.silence()),
      command('Listen', 'Click, voices, WAV file', ['m'], () => panels.toggle(SOUND)),
      command('Listen', 'Blind compare', ['b'], () => blind.start()),
      command('Notes', 'Add a hit of the sound file at the playhead', [], () => hits.addAtPlayhead()),
      command('File', 'Import a sound file', [], () => {
        panels.open(SOUND);
        void audio.open();
      }),
    ];
  }),
];
