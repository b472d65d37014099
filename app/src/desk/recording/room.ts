import { inject, type Provider } from '@angular/core';
import { command, provideCommands } from '../kit/command';
import { BEST_TAKES, toggleStrip } from '../kit/foot-strips';
import { provideOverlay } from '../kit/overlay';
import { Panels } from '../kit/panels';
import { always, provideFootStrip, provideStrip } from '../kit/strip';
import { Calibrator } from './calibrator';
import { LiveOverlay } from './live-overlay';
import { Recorder } from './recorder';
import { Recordings } from './recordings';
import { RecordingStrip } from './recording-strip';
import { Taking } from './taking';
import { TakesBar } from './takes-bar';

/** Name of the strip with what is played in, and where to. */
export const INPUT = 'input';

/** Recording, its input and latency, and takes. */
export const recordingRoom: Provider[] = [
  Recorder,
  Recordings,
  Calibrator,
  Taking,
  provideOverlay(LiveOverlay),
  provideStrip(() => ({ id: 'takes', place: 'picture', order: 0, isOpen: always, component: TakesBar })),
  provideStrip(() => {
    const panels = inject(Panels);
    return { id: INPUT, place: 'foot', order: 10, isOpen: () => panels.isOpen(INPUT), component: RecordingStrip };
  }),
  provideFootStrip(BEST_TAKES, () => import('../strips').then((m) => m.BestStrip)),
  provideCommands(() => {
    const recorder = inject(Recorder);
    const panels = inject(Panels);
    const taking = inject(Taking);
    return [
      command('Record', 'Record, or stop recording', ['Shift+r'], () => recorder.toggle()),
      command('Record', 'Input: what you play, and where it goes', ['i'], () => panels.toggle(INPUT)),
      command('Record', 'Choose the take before', [], () => taking.step(-1)),
      command('Record', 'Choose the next take', [], () => taking.step(1)),
      command('Record', 'Best of the takes: compare them bar by bar', [], () => toggleStrip(panels, BEST_TAKES)),
    ];
  }),
];
