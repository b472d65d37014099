import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { TRIPLET, type Grid, type GridValue } from '@early-sparrow/core/grid';
import { Theme } from '../common/theme';
import { Player } from '../sound/player';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { Exporter } from './exporter';
import { Selecting } from './selecting';
import { Treating } from './treating';

/** Something that can be done from the keyboard or by its name. */
export interface Command {
  readonly name: string;
  readonly group: string;
  /** Key in the notation of tinykeys; null for none. */
  readonly key: string | null;
  /** The key as people read it. */
  readonly shown: string;
  readonly run: () => void;
}

/** Offsets beyond this many ms are wild. */
const WILD_MS = 40;

/** Everything that the desk can do, once: the keys, the searchable list and the sheet are made from it. */
@Injectable()
export class Commands {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly theme = inject(Theme);
  private readonly exporter = inject(Exporter);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);

  /** Whether the list is open. */
  readonly listOpen = signal(false);
  /** Whether the timing report is open. */
  readonly reportOpen = signal(false);

  readonly all: readonly Command[] = [
    this.command('Listen', 'Play or pause', 'Space', () => this.player.toggle()),
    this.command('Listen', 'Back to the start', 'Home', () => this.player.seek(0)),
    this.command('Listen', 'Switch between as played and corrected', 'Enter', () => this.switchSides()),
    this.command('Listen', 'Loop on or off', 'KeyL', () => this.player.loopOn.update((on) => !on)),
    this.command('Listen', 'Click on or off', 'KeyC', () => this.player.clickOn.update((on) => !on)),
    this.command('Listen', 'Blind compare', 'KeyB', () => this.player.blind.set('played')),
    this.command('Undo', 'Undo', '$mod+KeyZ', () => this.store.dispatch(DeskActions.undo())),
    this.command('Undo', 'Redo', '$mod+Shift+KeyZ', () => this.store.dispatch(DeskActions.redo())),
    this.command('Notes', 'Quantize the selected notes', 'KeyQ', () => this.selecting.quantize(1)),
    this.command('Notes', 'Quantize the selected notes half-way', 'KeyH', () => this.selecting.quantize(0.5)),
    this.command('Notes', 'Leave the selected notes as played', 'KeyA', () => this.selecting.asPlayed()),
    this.command('Notes', 'Pin the selected notes', 'KeyP', () => this.selecting.pin()),
    this.command('Notes', 'Own settings for the selected notes', 'KeyO', () => this.selecting.ownSettings()),
    this.command('Notes', 'Selected notes back into the treatment', 'KeyU', () => this.selecting.release()),
    this.command('Notes', 'Move the selected notes a tick earlier', 'Alt+ArrowLeft', () => this.nudge(-1)),
    this.command('Notes', 'Move the selected notes a tick later', 'Alt+ArrowRight', () => this.nudge(1)),
    this.command('Notes', 'Keep as corrected', 'KeyK', () => this.selecting.keep()),
    this.command('Notes', 'Return to the take', 'Shift+KeyK', () =>
      this.selecting.toTake({ starts: true, lengths: true, velocities: true }),
    ),
    this.command('Select', 'Select all notes', '$mod+KeyA', () => this.selecting.all()),
    this.command('Select', 'Select all early notes', 'KeyE', () => this.selecting.where((ms) => ms < -10)),
    this.command('Select', 'Select all late notes', 'Shift+KeyE', () => this.selecting.where((ms) => ms > 10)),
    this.command('Select', 'Select all wild notes', 'KeyW', () => this.selecting.where((ms) => Math.abs(ms) > WILD_MS)),
    this.command('Select', 'Select nothing', 'Escape', () => this.selecting.select([])),
    ...this.gridCommands(),
    this.command('Show', 'Timing report', 'KeyR', () => this.reportOpen.update((open) => !open)),
    this.command('Show', 'Light or dark', null, () => this.theme.toggle()),
    this.command('File', 'Export the corrected MIDI file', '$mod+KeyS', () => void this.exporter.midi('corrected')),
    this.command('File', 'Export the MIDI file as played', null, () => void this.exporter.midi('played')),
    this.command('Show', 'All commands', '$mod+KeyK', () => this.listOpen.set(true)),
    this.command('Show', 'All commands and keys', 'Shift+?', () => this.listOpen.set(true)),
  ];

  private gridCommands(): Command[] {
    const values: [string, GridValue, string][] = [
      ['1', 1, 'whole'],
      ['2', 2, 'half'],
      ['4', 4, 'quarter'],
      ['8', 8, 'eighth'],
      ['6', 16, 'sixteenth'],
      ['3', 32, 'thirty-second'],
    ];
    const isTriplet = (grid: Grid) => typeof grid.shape === 'object';
    return [
      ...values.map(([key, value, name]) =>
        this.command('Grid', `Grid of ${name} notes`, `Digit${key}`, () =>
          this.grid(`Quantize to 1/${value}`, { value }),
        ),
      ),
      this.command('Grid', 'Triplet or straight', 'KeyT', () =>
        this.gridBy('Triplet', (g) => ({ shape: isTriplet(g) ? 'straight' : TRIPLET, swing: 0.5 })),
      ),
      this.command('Grid', 'Dotted or straight', 'KeyD', () =>
        this.gridBy('Dotted', (g) => ({ shape: g.shape === 'dotted' ? 'straight' : 'dotted' })),
      ),
    ];
  }

  private gridBy(name: string, change: (grid: Grid) => Partial<Grid>): void {
    const grid = this.treating.treatment()?.quantize.grid;
    if (grid) this.grid(name, change(grid));
  }

  private grid(name: string, change: Partial<Grid>): void {
    const grid = this.treating.treatment()?.quantize.grid;
    if (grid) this.treating.commit(name, { quantize: { on: true, grid: { ...grid, mix: null, ...change } } });
  }

  private nudge(ticks: number): void {
    this.selecting.move(this.selecting.ids(), ticks);
  }

  private switchSides(): void {
    this.store.dispatch(DeskActions.compare({ which: this.compare() === 'played' ? 'corrected' : 'played' }));
  }

  private command(group: string, name: string, key: string | null, run: () => void): Command {
    return { group, name, key, shown: key ? readable(key) : '', run };
  }
}

function readable(key: string): string {
  return key
    .replace('$mod', /Mac/.test(navigator.userAgent) ? '⌘' : 'Ctrl')
    .replace(/Key|Digit/, '')
    .replace('ArrowLeft', '←')
    .replace('ArrowRight', '→')
    .replace('Shift+?', '?')
    .replaceAll('+', ' ');
}
