import {
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  signal,
  untracked,
  type WritableSignal,
} from '@angular/core';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { tinykeys } from 'tinykeys';
import { songEnd } from '@early-sparrow/core/song';
import { FocusOrigin } from '../common/focus-origin';
import { Player } from '../sound/player';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { SongStore } from '../storage/song-store';
import { Analyst } from './analyst';
import { BlindCompare } from './blind-compare';
import { BlindTest } from './blind-test';
import { CommandList } from './command-list';
import { Commands } from './commands';
import { DeskHead } from './desk-head';
import { belongsToControl } from './desk-keys';
import { Gestures } from './gestures';
import { Leans } from './leans';
import { Lifter } from './lifter';
import { Looping } from './looping';
import { Messages } from './messages';
import { Opened } from './opened';
import { Overview } from './overview';
import { Selecting } from './selecting';
import { Showing } from './showing';
import { TimingReport } from './timing-report';
import { TimingView } from './timing-view';
import { TrackList } from './track-list';
import { Transport } from './transport';
import { Treating } from './treating';
import { TreatmentPanel } from './treatment-panel';
import { Viewport } from './viewport';

/** The work screen of one song. */
@Component({
  selector: 'es-desk-page',
  imports: [
    RouterLink,
    BlindCompare,
    CommandList,
    DeskHead,
    Messages,
    TimingReport,
    Overview,
    TimingView,
    TrackList,
    Transport,
    TreatmentPanel,
  ],
  providers: [
    FocusOrigin,
    Viewport,
    Treating,
    Selecting,
    Analyst,
    Lifter,
    Leans,
    Looping,
    Showing,
    Opened,
    BlindTest,
    Commands,
    Gestures,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '(window:keyup)': 'released($event)',
    '(window:blur)': 'letGo()',
  },
  templateUrl: './desk-page.html',
  styleUrl: './desk-page.scss',
})
export class DeskPage {
  /** From the address. */
  readonly id = input.required<string>();

  private readonly store = inject(Store);
  private readonly songs = inject(SongStore);
  private readonly title = inject(Title);
  private readonly view = inject(Viewport);
  private readonly blind = inject(BlindTest);
  private readonly opened = inject(Opened);
  private readonly focus = inject(FocusOrigin);
  protected readonly commands = inject(Commands);
  protected readonly showing = inject(Showing);
  protected readonly player = inject(Player);
  /** What is shown: with what is being tried. */
  protected readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  protected readonly tracks = this.store.selectSignal(deskFeature.selectShownTracks);
  protected readonly track = this.store.selectSignal(deskFeature.selectShownTrack);
  protected readonly corrected = computed(() => this.player.shown() === 'corrected');
  /** Why the song cannot be shown; null when it can. */
  protected readonly problem = signal<string | null>(null);

  constructor() {
    effect(() => {
      const id = this.id();
      untracked(() => void this.open(id));
    });
    effect(() => {
      const song = this.song();
      if (!song) return;
      this.title.setTitle(`${song.name} · Early Sparrow`);
      this.view.end.set(songEnd(song));
    });
    this.escapable('report', this.commands.reportOpen);
    this.escapable('drawer', this.commands.drawerOpen);
    const unbind = tinykeys(window, this.keys());
    inject(DestroyRef).onDestroy(() => {
      unbind();
      this.leave();
    });
  }

  /** Stops and forgets what belongs to the song that was open. */
  private leave(): void {
    this.player.reset();
    this.blind.end();
    this.blind.forget();
    this.commands.reportOpen.set(false);
    this.commands.recipesOpen.set(false);
    this.store.dispatch(DeskActions.closed());
  }

  private async open(id: string): Promise<void> {
    this.leave();
    this.problem.set(null);
    try {
      const history = await this.songs.open(id);
      // Another song was asked for in the meantime.
      if (this.id() !== id) return;
      if (!history) {
        this.problem.set(
          'This song is not kept in this browser. It may have been deleted, or kept in another browser.',
        );
        return;
      }
      this.store.dispatch(DeskActions.opened({ songId: id, history }));
    } catch (error) {
      this.problem.set(
        `This song cannot be read: ${error instanceof Error ? error.message : 'unknown reason'}. Nothing of it was changed.`,
      );
    }
  }

  /** Escape closes it, if it was opened last. */
  private escapable(name: string, open: WritableSignal<boolean>): void {
    effect(() => {
      if (open()) this.opened.open(name, () => open.set(false));
      else this.opened.closed(name);
    });
  }

  protected letGo(): void {
    this.player.held.set(false);
  }

  protected released(event: KeyboardEvent): void {
    if (event.code === 'Backslash') this.letGo();
  }

  private keys(): Record<string, (event: KeyboardEvent) => void> {
    const plain = (act: () => void) => (event: KeyboardEvent) => {
      if (belongsToControl(event, this.focus.byKeyboard())) return;
      event.preventDefault();
      act();
    };
    const bound = this.commands.all.flatMap((c) => c.keys.map((key) => [key, plain(c.run)] as const));
    return { ...Object.fromEntries(bound), Backslash: plain(() => this.player.held.set(true)) };
  }
}
