import { inject, type Provider } from '@angular/core';
import { Player } from '../../sound/player';
import { command, provideCommands } from '../kit/command';
import { TIME, toggleStrip } from '../kit/foot-strips';
import { provideOverlay } from '../kit/overlay';
import { Panels } from '../kit/panels';
import { providePointer } from '../kit/pointer';
import { provideFootStrip, provideStrip } from '../kit/strip';
import { MARK, MarkEditing } from './mark-editing';
import { MarkPlaces } from './mark-places';
import { MarkPopup } from './mark-popup';
import { MarksGesture } from './marks-gesture';
import { MarksOverlay } from './marks-overlay';
import { TempoFitting } from './tempo-fitting';
import { TempoStrip } from './tempo-strip';
import { TimeActs } from './time-acts';

/** Tempo, meter, keys and markers, and fitting the tempo to the playing. */
export const tempoRoom: Provider[] = [
  TempoFitting,
  TimeActs,
  MarkPlaces,
  MarkEditing,
  providePointer(MarksGesture),
  provideOverlay(MarksOverlay),
  provideFootStrip(TIME, () => import('../strips').then((m) => m.TimeStrip)),
  provideStrip(() => {
    const fitting = inject(TempoFitting);
    return { id: 'tempo', place: 'picture', order: 20, isOpen: () => fitting.open(), component: TempoStrip };
  }),
  provideStrip(() => {
    const panels = inject(Panels);
    return { id: MARK, place: 'ruler', order: 0, isOpen: () => panels.isOpen(MARK), component: MarkPopup };
  }),
  provideCommands(() => {
    const fitting = inject(TempoFitting);
    const panels = inject(Panels);
    const acts = inject(TimeActs);
    const editing = inject(MarkEditing);
    const player = inject(Player);
    return [
      command('Tempo', 'Fit the tempo to the playing', ['Shift+f'], () => fitting.start()),
      command('Tempo', 'Tap along with the beat', ['Shift+n'], (at) => {
        fitting.start();
        fitting.tap(at);
      }),
      command('Tempo', 'Tempo, meter, markers and key; insert and cut out bars', ['Shift+b'], () =>
        toggleStrip(panels, TIME),
      ),
      command('Tempo', 'Add a marker at the playhead', ['Shift+y'], () =>
        editing.open({ fresh: acts.nearest(player.position(), 'beat') }),
      ),
    ];
  }),
];
