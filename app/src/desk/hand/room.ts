import { inject, type Provider } from '@angular/core';
import { ON_LINE_MS } from '@early-sparrow/core/insight';
import { Player } from '../../sound/player';
import { command, provideCommands, repeating } from '../kit/command';
import { Panels } from '../kit/panels';
import { Picking } from '../kit/picking';
import { Viewport } from '../kit/viewport';
import { Behind } from './behind';
import { ChosenParts } from './chosen-parts';
import { Following } from './following';
import { LongSteps } from './long-steps';
import { Mixing } from './mixing';
import { Parts } from './parts';
import { Scenery } from './scenery';
import { Selecting } from './selecting';
import { Shaping } from './shaping';
import { Sounding } from './sounding';
import { TrackOrder } from './track-order';
import { Treating } from './treating';
import { Turns } from './turns';
import { Ways } from './ways';

/** Offsets beyond this many ms are wild. */
const WILD_MS = 40;
const WHOLE_TAKE = { starts: true, lengths: true, velocities: true };
/** What of notes goes back to the take, each alone. */
export const TAKE_PARTS = {
  starts: { starts: true, lengths: false, velocities: false },
  lengths: { starts: false, lengths: true, velocities: false },
  velocities: { starts: false, lengths: false, velocities: true },
} as const;

/** The current part, its treatment, the selected notes. */
export const handRoom: Provider[] = [
  Viewport,
  Picking,
  ChosenParts,
  TrackOrder,
  Mixing,
  Treating,
  Following,
  Turns,
  LongSteps,
  Selecting,
  Shaping,
  Sounding,
  Scenery,
  Ways,
  Behind,
  Parts,
  provideCommands(() => {
    const steps = inject(LongSteps);
    const selecting = inject(Selecting);
    const player = inject(Player);
    const shaping = inject(Shaping);
    const view = inject(Viewport);
    const picking = inject(Picking);
    // Ten presses of the key are one step.
    const nudge = (ticks: number, rows: number) => () => {
      const picked = picking.now();
      if (picked) picked.nudge(ticks, rows);
      else shaping.move(selecting.ids(), { ticks, rows, pitches: view.pitches() }, player.shown(), 'nudge');
    };
    const treating = inject(Treating);
    const panels = inject(Panels);
    const parts = inject(Parts);
    /** What is being tried goes first, then what was opened last, then the selection. */
    const escape = () => {
      if (treating.trying()) treating.endTrying();
      else if (panels.escape()) return;
      else if (picking.now()) picking.now()?.drop();
      else selecting.select([]);
    };
    return [
      repeating('Undo', 'Undo', ['$mod+z'], () => steps.undo()),
      repeating('Undo', 'Redo', ['$mod+Shift+z', '$mod+y'], () => steps.redo()),
      command('Notes', 'Quantize the selected notes', ['q'], () => selecting.quantize(1)),
      command('Notes', 'Quantize the selected notes half-way', ['h'], () => selecting.quantize(0.5)),
      command('Notes', 'Leave the selected notes as played', ['Shift+a'], () => selecting.asPlayed()),
      command('Notes', 'Pin the selected notes', ['p'], () => selecting.pin()),
      command('Notes', 'Give the selected notes their own settings', ['o'], () => selecting.ownSettings()),
      command('Notes', 'Put the selected notes back into the treatment', ['u'], () => selecting.release()),
      repeating('Notes', 'Move the selected notes one tick earlier', ['Alt+ArrowLeft'], nudge(-1, 0)),
      repeating('Notes', 'Move the selected notes one tick later', ['Alt+ArrowRight'], nudge(1, 0)),
      repeating('Notes', 'Move the selected notes one row up', ['Alt+ArrowUp'], nudge(0, 1)),
      repeating('Notes', 'Move the selected notes one row down', ['Alt+ArrowDown'], nudge(0, -1)),
      command('Notes', 'Erase the selected notes', ['Delete', 'Backspace'], () => (picking.now() ?? shaping).erase()),
      command('Notes', 'Keep as corrected', ['k'], () => selecting.keep()),
      command('Notes', 'Return to the take', ['Shift+k'], () => selecting.toTake(WHOLE_TAKE)),
      command('Select', 'Select all notes', ['$mod+a'], () => (picking.now() ?? selecting).all()),
      command('Select', `Select notes played more than ${ON_LINE_MS} ms early`, ['e'], () =>
        selecting.where((ms) => ms < -ON_LINE_MS),
      ),
      command('Select', `Select notes played more than ${ON_LINE_MS} ms late`, ['Shift+e'], () =>
        selecting.where((ms) => ms > ON_LINE_MS),
      ),
      command('Select', `Select wild notes, played more than ${WILD_MS} ms off`, ['Shift+w'], () =>
        selecting.where((ms) => Math.abs(ms) > WILD_MS),
      ),
      command('Select', 'Close what was opened last, or select nothing', ['Escape'], escape),
      command('Select', 'Go to the part before', ['PageUp'], () => parts.step(-1)),
      command('Select', 'Go to the next part', ['PageDown'], () => parts.step(1)),
    ];
  }),
];
