import { inject, type Provider } from '@angular/core';
import { Feedback } from '../kit/feedback';
import { command, provideCommands } from '../kit/command';
import { provideLane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import { provideOverlay } from '../kit/overlay';
import { providePointer } from '../kit/pointer';
import { BoxGesture } from './box-gesture';
import { EdgeGesture } from './edge-gesture';
import { Gestures } from './gestures';
import { KeyOverlay } from './key-overlay';
import { KeysGesture } from './keys-gesture';
import { LaneEdgeGesture } from './lane-edge-gesture';
import { LanesGesture } from './lanes-gesture';
import { NoteGesture } from './note-gesture';
import { OffsetLane } from './offset-lane';
import { PanGesture } from './pan-gesture';
import { PlayheadInView } from './playhead-in-view';
import { Pressing } from './pressing';
import { Reaching } from './reaching';
import { Showing } from './showing';
import { SwingGesture } from './swing-gesture';
import { WayOverlay } from './way-overlay';

/** The roll with its ruler and lanes, and what the pointer does there. */
export const pictureRoom: Provider[] = [
  Feedback,
  LaneBook,
  Gestures,
  PlayheadInView,
  Pressing,
  Reaching,
  Showing,
  providePointer(PanGesture),
  providePointer(SwingGesture),
  providePointer(LaneEdgeGesture),
  providePointer(KeysGesture),
  providePointer(LanesGesture),
  providePointer(EdgeGesture),
  providePointer(NoteGesture),
  providePointer(BoxGesture),
  provideLane(OffsetLane),
  provideOverlay(KeyOverlay),
  provideOverlay(WayOverlay),
  provideCommands(() => {
    const showing = inject(Showing);
    return [
      command('Show', 'Show everything', ['v'], () => showing.everything()),
      command('Show', 'Show the selection', ['Shift+v'], () => showing.selection()),
      command('Show', 'Show all keys of a kit, or only those played', ['Alt+k'], () => showing.toggleKeys()),
      command('Show', 'Show the loop', ['Shift+Alt+v'], () => showing.loop()),
    ];
  }),
];
