import { inject, type Provider } from '@angular/core';
import { TAKE_PARTS } from '../hand/room';
import { Selecting } from '../hand/selecting';
import { command, provideCommands, repeating } from '../kit/command';
import { readable } from '../kit/keys';
import { LANES, provideLane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import { provideOverlay } from '../kit/overlay';
import { Panels } from '../kit/panels';
import { providePointer } from '../kit/pointer';
import { provideFootStrip } from '../kit/strip';
import { provideVerbs } from '../kit/verb';
import { Acts } from './acts';
import { Clipboard } from './clipboard';
import { BendLane, ControllerLane, PedalLane, PressureLane } from './control-lanes';
import { Controls } from './controls';
import { DrawGesture } from './draw-gesture';
import { Drawing } from './drawing';
import { LengthLane } from './length-lane';
import { Points } from './points';
import { SELECT, SHAPE, TIDY, toggleStrip } from '../kit/foot-strips';
import { StretchGesture } from './stretch-gesture';
import { Sweeps } from './sweep';
import { VelocityLane } from './velocity-lane';
import { shapeVerbs } from './verbs';

/** Handwork on notes: drawing, verbs at the pointer, lanes, and commands on what is selected. */
export const shapeRoom: Provider[] = [
  Drawing,
  Sweeps,
  Controls,
  Points,
  Acts,
  Clipboard,
  providePointer(DrawGesture),
  providePointer(StretchGesture),
  provideOverlay(StretchGesture),
  provideVerbs(shapeVerbs),
  provideLane(VelocityLane),
  provideLane(LengthLane),
  provideLane(PedalLane),
  provideLane(BendLane),
  provideLane(PressureLane),
  provideLane(ControllerLane),
  provideFootStrip(SHAPE, () => import('../strips').then((m) => m.ShapeStrip)),
  provideFootStrip(SELECT, () => import('../strips').then((m) => m.SelectStrip)),
  provideFootStrip(TIDY, () => import('../strips').then((m) => m.TidyStrip)),
  provideCommands(() => {
    const acts = inject(Acts);
    const clipboard = inject(Clipboard);
    const panels = inject(Panels);
    const selecting = inject(Selecting);
    return [
      command('Shape', 'Shape the selected notes: length, time, pitch', ['Shift+s'], () => toggleStrip(panels, SHAPE)),
      command('Shape', 'Make the selected notes a little looser', [','], () => acts.looser()),
      command('Shape', 'Make the selected notes a little tighter', ['.'], () => acts.tighter()),
      command('Shape', 'Duplicate the selected notes', ['$mod+d'], () => acts.duplicate()),
      command('Shape', 'Join the selected notes', ['$mod+j'], () => acts.join()),
      command('Shape', 'Cut the selected notes at every line', ['Alt+c'], () => acts.cutAtLines()),
      command('Shape', 'Make the selected notes legato', ['Alt+l'], () => acts.legato()),
      command('Shape', 'Lengthen the selected notes to the next line', [], () => acts.toNextLine()),
      command('Shape', 'Lengthen the selected notes to the part’s end', [], () => acts.toPartEnd()),
      repeating('Shape', 'Make the selected notes a step longer', ['Alt+w'], () => acts.byStep(1)),
      repeating('Shape', 'Make the selected notes a step shorter', ['Alt+s'], () => acts.byStep(-1)),
      repeating('Shape', 'Transpose the selected notes an octave up', ['Alt+Shift+ArrowUp'], () => acts.transpose(12)),
      repeating('Shape', 'Transpose the selected notes an octave down', ['Alt+Shift+ArrowDown'], () =>
        acts.transpose(-12),
      ),
      repeating('Shape', 'Transpose the selected notes a semitone up', [], () => acts.transpose(1)),
      repeating('Shape', 'Transpose the selected notes a semitone down', [], () => acts.transpose(-1)),
      command('Shape', 'Put the selected notes on one key', [], () => acts.oneKey()),
      command('Shape', 'Stretch the selected notes to twice their time', [], () => acts.stretch(2)),
      command('Shape', 'Stretch the selected notes to half their time', [], () => acts.stretch(0.5)),
      command('Shape', 'Reverse the selected notes', [], () => acts.reverse()),
      command('Shape', 'Return the starts of the selected notes to the take', [], () =>
        selecting.toTake(TAKE_PARTS.starts),
      ),
      command('Shape', 'Return the lengths of the selected notes to the take', [], () =>
        selecting.toTake(TAKE_PARTS.lengths),
      ),
      command('Shape', 'Return the velocities of the selected notes to the take', [], () =>
        selecting.toTake(TAKE_PARTS.velocities),
      ),
      command('Shape', `Copy the selected notes (${readable('$mod+c')})`, [], () => clipboard.copy()),
      command('Shape', `Cut the selected notes to the clipboard (${readable('$mod+x')})`, [], () =>
        clipboard.copy(true),
      ),
      command(
        'Shape',
        `Paste notes at the playhead (${readable('$mod+v')})`,
        [],
        () => void clipboard.paste('playhead'),
      ),
      command('Shape', 'Paste notes at the same place in the bar', ['Alt+v'], () => void clipboard.paste('bar')),
      command('Shape', 'Tidy: doubles, short, soft and stray notes', ['Shift+t'], () => toggleStrip(panels, TIDY)),
      command('Select', 'Select notes by what they are', ['Shift+q'], () => toggleStrip(panels, SELECT)),
      command('Select', 'Select all other notes', [], () => acts.invert()),
    ];
  }),
  provideCommands(() => {
    const book = inject(LaneBook);
    return inject(LANES)
      .filter(({ id }) => book.has(id))
      .map(({ id, name }) => command('Show', `Open or fold the lane: ${name}`, [], () => book.toggle(id)));
  }),
];
