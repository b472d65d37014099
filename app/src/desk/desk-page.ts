import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, input, signal } from '@angular/core';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { tinykeys } from 'tinykeys';
import { songEnd } from '@early-sparrow/core/song';
import { Player } from '../sound/player';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { SongStore } from '../storage/song-store';
import { Analyst } from './analyst';
import { BlindCompare } from './blind-compare';
import { CommandList } from './command-list';
import { Commands } from './commands';
import { DeskHead } from './desk-head';
import { Gestures } from './gestures';
import { Lifter } from './lifter';
import { Messages } from './messages';
import { Overview } from './overview';
import { Selecting } from './selecting';
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
  providers: [Viewport, Treating, Selecting, Analyst, Lifter, Commands, Gestures],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '(window:keyup)': 'released($event)',
    '(window:blur)': 'player.held.set(false)',
    '(document:pointerdown)': 'byKeyboard = false',
    '(document:keydown.tab)': 'byKeyboard = true',
    '(document:keydown.shift.tab)': 'byKeyboard = true',
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
  protected readonly commands = inject(Commands);
  protected readonly player = inject(Player);
  protected readonly song = this.store.selectSignal(deskFeature.selectSong);
  protected readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  protected readonly track = this.store.selectSignal(deskFeature.selectTrack);
  protected readonly corrected = computed(() => this.player.shown() === 'corrected');
  /** Why the song cannot be shown; null when it can. */
  protected readonly problem = signal<string | null>(null);

  /** Whether the focus was last moved by the keyboard. */
  protected byKeyboard = false;

  constructor() {
    effect(() => void this.open(this.id()));
    effect(() => {
      const song = this.song();
      if (!song) return;
      this.title.setTitle(`${song.name} · Early Sparrow`);
      this.view.end.set(songEnd(song));
    });
    const unbind = tinykeys(window, this.keys());
    inject(DestroyRef).onDestroy(() => {
      unbind();
      if (this.player.playing()) this.player.stop();
      this.player.blind.set(null);
      this.store.dispatch(DeskActions.closed());
    });
  }

  private async open(id: string): Promise<void> {
    this.problem.set(null);
    try {
      const history = await this.songs.open(id);
      if (!history) {
        this.problem.set(
          'This song is not kept in this browser. It may have been deleted, or kept in another browser.',
        );
        return;
      }
      this.player.position.set(0);
      this.player.loop.set({ from: 0, to: 0 });
      this.player.loopOn.set(false);
      this.store.dispatch(DeskActions.opened({ songId: id, history }));
    } catch (error) {
      this.problem.set(
        `This song cannot be read: ${error instanceof Error ? error.message : 'unknown reason'}. Nothing of it was changed.`,
      );
    }
  }

  protected released(event: KeyboardEvent): void {
    if (event.code === 'Backslash') this.player.held.set(false);
  }

  private keys(): Record<string, (event: KeyboardEvent) => void> {
    const plain = (act: () => void) => (event: KeyboardEvent) => {
      if (belongsToControl(event, this.byKeyboard)) return;
      event.preventDefault();
      act();
    };
    const bound = this.commands.all.flatMap((c) => (c.key ? [[c.key, plain(c.run)] as const] : []));
    return { ...Object.fromEntries(bound), Backslash: plain(() => this.player.held.set(true)) };
  }
}

/**
 * Keys that belong to a field or an open menu are not the desk's. Space belongs to a button only when the
 * keyboard went there: after a click, space plays.
 */
function belongsToControl(event: KeyboardEvent, byKeyboard: boolean): boolean {
  const target = event.target as HTMLElement | null;
  if (!target) return false;
  const writes = target.matches('input:not([type=range]), textarea, select, [contenteditable]');
  if (writes || target.closest('[role=menu]')) return true;
  const presses = event.code === 'Space' || event.key === 'Enter';
  return presses && byKeyboard && target.closest('button, a, [role=radio], [role=switch]') !== null;
}
