import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { formatGrid, TRIPLET, type Grid, type GridValue } from '@early-sparrow/core/grid';
import { ON_LINE_MS } from '@early-sparrow/core/insight';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Theme } from '../../common/theme';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { BlindTest } from '../listening/blind-test';
import { Exporter } from './exporter';
import { AudioImport } from '../listening/audio-import';
import { Hits } from '../listening/hits';
import { Looping } from '../listening/looping';
import { Narrowing } from '../listening/narrowing';
import { Opened } from './opened';
import { Recorder } from '../recording/recorder';
import { Selecting } from '../selection/selecting';
import { Showing } from '../picture/showing';
import { TempoFitting } from '../tempo/tempo-fitting';
import { Treating } from '../treatment/treating';
import { Viewport } from '../picture/viewport';

/** Something that can be done from the keyboard or by its name. */
export interface Command {
  readonly name: string;
  readonly group: string;
  /** Keys in the notation of tinykeys; the first is the one that is shown. */
  readonly keys: readonly string[];
  /** The key as people read it; empty for none. */
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
  private readonly listening = inject(ListeningSettings);
  private readonly narrowing = inject(Narrowing);
  private readonly recorder = inject(Recorder);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly theme = inject(Theme);
  private readonly exporter = inject(Exporter);
  private readonly fitting = inject(TempoFitting);
  private readonly looping = inject(Looping);
  private readonly hits = inject(Hits);
  private readonly audio = inject(AudioImport);
  private readonly showing = inject(Showing);
  private readonly blind = inject(BlindTest);
  private readonly opened = inject(Opened);
  private readonly view = inject(Viewport);
  private readonly said = inject(Said);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);

  /** Whether the list is open. */
  readonly listOpen = signal(false);
  /** Whether the timing report is open. */
  readonly reportOpen = signal(false);
  /** Whether what is played in with is open. */
  readonly playInOpen = signal(false);
  /** Whether the settings of sound and listening are open. */
  readonly soundOpen = signal(false);
  /** Whether the recipes are open. */
  readonly recipesOpen = signal(false);
  /** Whether the treatment's drawer is open, where the window is too narrow to show it always. */
  readonly drawerOpen = signal(false);

  readonly all: readonly Command[] = [
    command('Listen', 'Play or pause', ['Space'], () => this.player.toggle()),
    command('Listen', 'Back to the start', ['Home'], () => this.player.seek(0)),
    command('Listen', 'Switch between as played and corrected', ['Enter'], () => this.switchSides()),
    command('Listen', 'Loop on or off', ['KeyL'], () => this.looping.toggle()),
    command('Listen', 'Click on or off', ['KeyC'], () => this.listening.set({ click: !this.listening.values().click })),
    command('Listen', 'Loop over the selection', ['Shift+KeyL'], () => this.looping.overSelection()),
    command('Listen', 'Loop begins at the playhead', ['BracketLeft'], () => this.looping.edge('from')),
    command('Listen', 'Loop ends at the playhead', ['BracketRight'], () => this.looping.edge('to')),
    command('Listen', 'Loop a bar earlier', ['Shift+BracketLeft'], () => this.looping.move(-1)),
    command('Listen', 'Loop a bar later', ['Shift+BracketRight'], () => this.looping.move(1)),
    command('Listen', 'Play from the selection', ['KeyG'], () => this.narrowing.fromSelection()),
    command('Listen', 'Play the selection alone', ['Shift+KeyG'], () => this.narrowing.selectionAlone()),
    command('Listen', 'Half speed on or off', ['KeyJ'], () => this.player.rate.update((r) => (r === 1 ? 0.5 : 1))),
    command('Listen', 'Silence everything', ['KeyX'], () => this.player.silence()),
    command('Listen', 'Click, voices, WAV file', ['KeyM'], () => this.soundOpen.update((open) => !open)),
    command('Record', 'Record, or stop recording', ['Shift+KeyR'], () => this.recorder.toggle()),
    command('Record', 'What is played in, and where to', ['KeyI'], () => this.playInOpen.update((open) => !open)),
    command('Listen', 'Blind compare', ['KeyB'], () => this.blind.start()),
    command('Undo', 'Undo', ['$mod+KeyZ'], () => this.store.dispatch(DeskActions.undo())),
    command('Undo', 'Redo', ['$mod+Shift+KeyZ', '$mod+KeyY'], () => this.store.dispatch(DeskActions.redo())),
    command('Notes', 'Quantize the selected notes', ['KeyQ'], () => this.selecting.quantize(1)),
    command('Notes', 'Quantize the selected notes half-way', ['KeyH'], () => this.selecting.quantize(0.5)),
    command('Notes', 'Leave the selected notes as played', ['KeyA'], () => this.selecting.asPlayed()),
    command('Notes', 'Pin the selected notes', ['KeyP'], () => this.selecting.pin()),
    command('Notes', 'Own settings for the selected notes', ['KeyO'], () => this.selecting.ownSettings()),
    command('Notes', 'Selected notes back into the treatment', ['KeyU'], () => this.selecting.release()),
    command('Notes', 'Move the selected notes a tick earlier', ['Alt+ArrowLeft'], () => this.nudge(-1, 0)),
    command('Notes', 'Move the selected notes a tick later', ['Alt+ArrowRight'], () => this.nudge(1, 0)),
    command('Notes', 'Move the selected notes a row up', ['Alt+ArrowUp'], () => this.nudge(0, 1)),
    command('Notes', 'Move the selected notes a row down', ['Alt+ArrowDown'], () => this.nudge(0, -1)),
    command('Notes', 'Erase the selected notes', ['Delete', 'Backspace'], () => this.selecting.erase()),
    command('Notes', 'Add a hit of the sound file at the playhead', [], () => this.hits.addAtPlayhead()),
    command('Notes', 'Keep as corrected', ['KeyK'], () => this.selecting.keep()),
    command('Notes', 'Return to the take', ['Shift+KeyK'], () =>
      this.selecting.toTake({ starts: true, lengths: true, velocities: true }),
    ),
    command('Select', 'Select all notes', ['$mod+KeyA'], () => this.selecting.all()),
    command('Select', `Select notes played more than ${ON_LINE_MS} ms early`, ['KeyE'], () =>
      this.selecting.where((ms) => ms < -ON_LINE_MS),
    ),
    command('Select', `Select notes played more than ${ON_LINE_MS} ms late`, ['Shift+KeyE'], () =>
      this.selecting.where((ms) => ms > ON_LINE_MS),
    ),
    command('Select', `Select wild notes, played more than ${WILD_MS} ms off`, ['KeyW'], () =>
      this.selecting.where((ms) => Math.abs(ms) > WILD_MS),
    ),
    command('Select', 'Close what was opened last, or select nothing', ['Escape'], () => this.escape()),
    ...this.gridCommands(),
    command('Tempo', 'Fit the tempo to the playing', ['KeyF'], () => this.fitting.start()),
    command('Tempo', 'Tap along with the beat', ['KeyN'], () => this.tap()),
    command('Recipes', 'Open the recipes: use, save, rename', ['KeyY'], () => this.recipesOpen.set(true)),
    command('Show', 'Show everything', ['KeyV'], () => this.showing.everything()),
    command('Show', 'Show the selection', ['Shift+KeyV'], () => this.showing.selection()),
    command('Show', 'Show the loop', ['Alt+KeyV'], () => this.showing.loop()),
    command('Show', 'Timing report', ['KeyR'], () => this.reportOpen.update((open) => !open)),
    command('Show', 'Treatment, where the window is narrow', ['KeyS'], () => this.drawerOpen.update((open) => !open)),
    command('Show', 'Light or dark', [], () => this.theme.toggle()),
    command('File', 'Export the corrected MIDI file', ['$mod+KeyS'], () => void this.exporter.midi('corrected')),
    command('File', 'Export the MIDI file as played', [], () => void this.exporter.midi('played')),
    command('File', 'Bring in an audio file', [], () => {
      this.soundOpen.set(true);
      void this.audio.open();
    }),
    command('Show', 'All commands', ['$mod+KeyK', 'Shift+?'], () => this.listOpen.set(true)),
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
        command('Grid', `Grid of ${name} notes`, [`Digit${key}`], () => this.grid(() => ({ value }))),
      ),
      command('Grid', 'Triplet or straight', ['KeyT'], () =>
        this.grid((g) => ({ shape: isTriplet(g) ? 'straight' : TRIPLET, swing: 0.5 })),
      ),
      command('Grid', 'Dotted or straight', ['KeyD'], () =>
        this.grid((g) => ({ shape: g.shape === 'dotted' ? 'straight' : 'dotted' })),
      ),
    ];
  }

  /** Grid keys speak to what the panel is about; with notes selected, or a groove left by it, that is said. */
  private grid(change: (grid: Grid) => Partial<Grid>): void {
    const quantize = this.treating.treatment()?.quantize;
    if (!quantize) return;
    const grid = { mix: null, ...change(quantize.grid) };
    const text = formatGrid({ ...quantize.grid, ...grid });
    this.treating.commit(`Quantize to ${text}`, { quantize: { on: true, groove: null, grid } });
    const selected = this.selecting.count();
    const left = quantize.groove ? ` The groove ${quantize.groove.groove.name} was left.` : '';
    const whom = this.treating.set() ? 'the notes with these own settings' : 'the whole part';
    const only = selected > 0 ? `, not only ${counted(selected, 'selected note')}: Q quantizes those` : '';
    if (left || only) this.said.say(`${text} for ${whom}${only}.${left}`);
  }

  private nudge(ticks: number, rows: number): void {
    const from = this.player.shown();
    // Ten presses of the key are one step.
    this.selecting.move(this.selecting.ids(), { ticks, rows, pitches: this.view.pitches(), from }, 'nudge');
  }

  private tap(): void {
    this.fitting.start();
    this.fitting.tap();
  }

  private switchSides(): void {
    this.store.dispatch(DeskActions.compare({ which: this.compare() === 'played' ? 'corrected' : 'played' }));
  }

  /** What is being tried goes first, then what was opened last, then the selection. */
  private escape(): void {
    if (this.treating.trying()) this.treating.endTrying();
    else if (!this.opened.escape()) this.selecting.select([]);
  }
}

function command(group: string, name: string, keys: readonly string[], run: () => void): Command {
  return { group, name, keys, shown: keys.length > 0 ? readable(keys[0]) : '', run };
}

function readable(key: string): string {
  return key
    .replace('$mod', /Mac/.test(navigator.userAgent) ? '⌘' : 'Ctrl')
    .replace(/Key|Digit/, '')
    .replace('ArrowLeft', '←')
    .replace('ArrowRight', '→')
    .replace('ArrowUp', '↑')
    .replace('ArrowDown', '↓')
    .replace('BracketLeft', '[')
    .replace('BracketRight', ']')
    .replace('Shift+?', '?')
    .replaceAll('+', ' ');
}
