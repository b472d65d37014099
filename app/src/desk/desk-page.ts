import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  inject,
  input,
  untracked,
  type WritableSignal,
} from '@angular/core';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { tinykeys } from 'tinykeys';
import { songEnd } from '@early-sparrow/core/song';
import { AudioDrop } from '../common/audio-drop';
import { FocusOrigin } from '../common/focus-origin';
import { Player } from '../sound/player';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { SongStore } from '../storage/song-store';
import { Analyst } from './fits/analyst';
import { Following } from './fits/following';
import { BlindCompare } from './listening/blind-compare';
import { AudioBar } from './listening/audio-bar';
import { AudioImport } from './listening/audio-import';
import { Hits } from './listening/hits';
import { BlindTest } from './listening/blind-test';
import { Narrowing } from './listening/narrowing';
import { Calibrator } from './recording/calibrator';
import { Recorder } from './recording/recorder';
import { RecordingStrip } from './recording/recording-strip';
import { TakesBar } from './recording/takes-bar';
import { SoundStrip } from './listening/sound-strip';
import { WavExport } from './listening/wav-export';
import { CommandList } from './commands/command-list';
import { Commands } from './commands/commands';
import { Exporter } from './commands/exporter';
import { DeskHead } from './desk-head';
import { KeepingBar } from './keeping-bar';
import { belongsToControl } from './commands/desk-keys';
import { Gestures } from './selection/gestures';
import { Leans } from './fits/leans';
import { Lifter } from './treatment/lifter';
import { Looping } from './listening/looping';
import { Messages } from './fits/messages';
import { Opened } from './commands/opened';
import { Overview } from './picture/overview';
import { Selecting } from './selection/selecting';
import { Showing } from './picture/showing';
import { TimingReport } from './report/timing-report';
import { TimingView } from './picture/timing-view';
import { TempoFitting } from './tempo/tempo-fitting';
import { TempoStrip } from './tempo/tempo-strip';
import { TrackList } from './tracks/track-list';
import { Transport } from './listening/transport';
import { Treating } from './treatment/treating';
import { TreatmentPanel } from './treatment/treatment-panel';
import { Viewport } from './picture/viewport';

/** The work screen of one song. */
@Component({
  selector: 'es-desk-page',
  imports: [
    RouterLink,
    AudioBar,
    BlindCompare,
    CommandList,
    DeskHead,
    KeepingBar,
    Messages,
    TimingReport,
    Overview,
    RecordingStrip,
    SoundStrip,
    TakesBar,
    TempoStrip,
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
    Following,
    Exporter,
    Lifter,
    TempoFitting,
    Leans,
    Looping,
    Showing,
    Opened,
    BlindTest,
    Narrowing,
    Recorder,
    Calibrator,
    WavExport,
    AudioImport,
    Hits,
    Commands,
    Gestures,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
    '(window:keyup)': 'released($event)',
    '(window:blur)': 'letGo()',
    '(window:beforeunload)': 'hold($event)',
  },
  templateUrl: './desk-page.html',
  styleUrl: './desk-page.scss',
})
export class DeskPage {
  /** From the address. */
  readonly id = input.required<string>();

  private readonly store = inject(Store);
  private readonly title = inject(Title);
  private readonly view = inject(Viewport);
  private readonly blind = inject(BlindTest);
  private readonly opened = inject(Opened);
  private readonly focus = inject(FocusOrigin);
  protected readonly commands = inject(Commands);
  protected readonly fitting = inject(TempoFitting);
  private readonly exporter = inject(Exporter);
  private readonly recorder = inject(Recorder);
  private readonly role = this.store.selectSignal(deskFeature.selectRole);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly songs = inject(SongStore);
  protected readonly showing = inject(Showing);
  protected readonly player = inject(Player);
  /** What is shown: with what is being tried. */
  protected readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  protected readonly tracks = this.store.selectSignal(deskFeature.selectShownTracks);
  /** Without what is being tried: what the overview shows does not depend on it. */
  protected readonly realTracks = this.store.selectSignal(deskFeature.selectTracks);
  protected readonly track = this.store.selectSignal(deskFeature.selectShownTrack);
  protected readonly corrected = computed(() => this.player.shown() === 'corrected');
  private readonly unsaved = this.store.selectSignal(deskFeature.selectUnsaved);
  protected readonly problem = this.store.selectSignal(deskFeature.selectProblem);
  protected readonly part = this.store.selectSignal(deskFeature.selectShownPart);

  constructor() {
    // From here on lines that follow a player are found in a worker.
    inject(Following);
    effect(() => {
      const id = this.id();
      untracked(() => {
        this.leave();
        this.store.dispatch(DeskActions.open({ songId: id }));
      });
    });
    effect(() => {
      const song = this.song();
      if (!song) return;
      this.title.setTitle(`${song.name} · Early Sparrow`);
      this.view.end.set(songEnd(song));
    });
    afterNextRender(() => this.player.prepare());
    this.escapable('report', this.commands.reportOpen);
    this.escapable('drawer', this.commands.drawerOpen);
    this.escapable('sound', this.commands.soundOpen);
    this.escapable('play in', this.commands.playInOpen);
    this.recoverRecording();
    const audio = inject(AudioImport);
    const undrop = inject(AudioDrop).take((file) => {
      this.commands.soundOpen.set(true);
      void audio.listen(file);
    });
    const unbind = tinykeys(window, this.keys());
    inject(DestroyRef).onDestroy(() => {
      unbind();
      undrop();
      this.leave();
      this.store.dispatch(DeskActions.close());
    });
  }

  /** What was being recorded when a tab was closed comes back with its song, once this tab may write. */
  private recoverRecording(): void {
    effect(() => {
      if (this.role() === 'writer' && this.songId()) untracked(() => void this.recorder.recover());
    });
  }

  /** Stops and forgets what belongs to the song that was open. */
  private leave(): void {
    this.player.reset();
    this.blind.end();
    this.blind.forget();
    this.commands.reportOpen.set(false);
    this.commands.soundOpen.set(false);
    this.commands.playInOpen.set(false);
    this.commands.recipesOpen.set(false);
  }

  /** Saves what is kept of a song that cannot be read, as it is. */
  protected async saveRecord(): Promise<void> {
    await this.exporter.record(this.id(), await this.songs.record(this.id()));
  }

  /** Escape closes it, if it was opened last. */
  private escapable(name: string, open: WritableSignal<boolean>): void {
    effect(() => {
      if (open()) this.opened.open(name, () => open.set(false));
      else this.opened.closed(name);
    });
  }

  /** A tab with steps that are not written asks before it goes. */
  protected hold(event: BeforeUnloadEvent): void {
    if (this.unsaved() > 0) event.preventDefault();
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
