import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  inject,
  input,
  untracked,
  viewChild,
} from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { Title } from '@angular/platform-browser';
import { RouterLink } from '@angular/router';
import { Store } from '@ngrx/store';
import { timer } from 'rxjs';
import { tinykeys } from 'tinykeys';
import { meterOf, songEnd } from '@early-sparrow/core/song';
import { lastEndOf } from '@early-sparrow/core/treatment';
import { AudioDrop } from '../common/audio-drop';
import { Beginning } from '../common/beginning';
import { FocusOrigin } from '../common/focus-origin';
import { Player } from '../sound/player';
import { DeskActions, deskFeature } from '../state/desk.feature';
import { SongStore } from '../storage/song-store';
import { DeskHead } from './desk-head';
import { Bringing } from './files/bringing';
import { Exporter } from './files/exporter';
import { Analyst } from './fits/analyst';
import { Following } from './hand/following';
import { KeepingBar } from './keeping-bar';
import type { Command } from './kit/command';
import { COMMAND_LIST, CommandList } from './kit/command-list';
import { Commands } from './kit/commands';
import { belongsToControl } from './kit/desk-keys';
import { leavingFields } from './kit/leave-field';
import { bindings } from './kit/keys';
import { HeldKey } from './kit/held-key';
import { Panels } from './kit/panels';
import { Strips } from './kit/strips';
import { Viewport } from './kit/viewport';
import { AudioImport } from './listening/audio-import';
import { BlindTest } from './listening/blind-test';
import { SOUND } from './listening/room';
import { ROOMS } from './rooms';
import { Transport } from './transport';
import { LanesMenu } from './picture/lanes-menu';
import { Overview } from './arrange/overview';
import { SongEdge } from './arrange/song-edge';
import { SongHeads } from './arrange/song-heads';
import { SongRows } from './arrange/song-rows';
import { Showing } from './picture/showing';
import { TimingView } from './picture/timing-view';
import { Recorder } from './recording/recorder';
import { INPUT } from './recording/room';
import { Clipboard } from './shape/clipboard';
import { TrackList } from './tracks/track-list';
import { DRAWER } from './treatment/names';
import { TreatmentPanel } from './treatment/treatment-panel';

/** A song is shown with so many bars at least. */
const LEAST_BARS = 4;
/** The sound gets ready so long after the desk came, in ms. */
const SOUND_AFTER_MS = 1000;
/** So many bars can be scrolled to behind the song's end. */
const ROOM_BARS = 8;

/** The work screen of one song. Its rooms contribute what they have. */
@Component({
  selector: 'es-desk-page',
  imports: [
    RouterLink,
    CommandList,
    DeskHead,
    KeepingBar,
    LanesMenu,
    Overview,
    SongEdge,
    SongHeads,
    Strips,
    TimingView,
    TrackList,
    Transport,
    TreatmentPanel,
  ],
  providers: ROOMS,
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: {
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
  private readonly panels = inject(Panels);
  private readonly focus = inject(FocusOrigin);
  private readonly commands = inject(Commands);
  private readonly heldKey = inject(HeldKey);
  private readonly exporter = inject(Exporter);
  private readonly recorder = inject(Recorder);
  private readonly songs = inject(SongStore);
  private readonly beginning = inject(Beginning);
  private readonly bringing = inject(Bringing);
  private readonly player = inject(Player);
  protected readonly showing = inject(Showing);
  protected readonly songRows = inject(SongRows);
  private readonly list = viewChild(CommandList);
  private readonly role = this.store.selectSignal(deskFeature.selectRole);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  /** What is shown: with what is being tried. */
  protected readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  protected readonly tracks = this.store.selectSignal(deskFeature.selectShownTracks);
  protected readonly track = this.store.selectSignal(deskFeature.selectShownTrack);
  protected readonly part = this.store.selectSignal(deskFeature.selectShownPart);
  protected readonly problem = this.store.selectSignal(deskFeature.selectProblem);
  private readonly unsaved = this.store.selectSignal(deskFeature.selectUnsaved);

  constructor() {
    // From here on lines that follow a player are found in a worker.
    inject(Following);
    // What fits is looked for while the desk is drawn for the first time.
    inject(Analyst);
    effect(() => {
      const id = this.id();
      untracked(() => {
        this.store.dispatch(DeskActions.open({ songId: id }));
        this.begin(id);
      });
    });
    effect(() => {
      const song = this.song();
      if (!song) return;
      this.title.setTitle(`${song.name} · Early Sparrow`);
      // A part may end behind its last note.
      const end = song.tracks.reduce((last, t) => Math.max(last, t.parts.at(-1)?.end ?? 0), songEnd(song, lastEndOf));
      const bar = meterOf(song).pieceAt(end).barTicks;
      // An empty song has bars too, and behind the last note there is room to draw.
      this.view.end.set(Math.max(LEAST_BARS * bar, end));
      this.view.room.set(ROOM_BARS * bar);
    });
    // Getting the sound ready would hold up the first painting.
    const sound = timer(SOUND_AFTER_MS).pipe(takeUntilDestroyed(inject(DestroyRef)));
    afterNextRender(() => sound.subscribe(() => this.player.prepare()));
    inject(Clipboard).listen(inject(DestroyRef));
    leavingFields(inject(DestroyRef));
    this.recoverRecording();
    const audio = inject(AudioImport);
    const undrop = inject(AudioDrop).take((file) => {
      this.panels.open(SOUND);
      void audio.listen(file);
    });
    const unbind = tinykeys(window, this.keys());
    const typing = (event: KeyboardEvent) => this.typeIntoList(event);
    window.addEventListener('keydown', typing, true);
    inject(DestroyRef).onDestroy(() => {
      unbind();
      undrop();
      window.removeEventListener('keydown', typing, true);
      this.leave();
      this.store.dispatch(DeskActions.close());
    });
  }

  protected drawerOpen(): boolean {
    return this.panels.isOpen(DRAWER);
  }

  /** What was being recorded when a tab was closed comes back with its song, once this tab may write. */
  private recoverRecording(): void {
    effect(() => {
      if (this.role() === 'writer' && this.songId()) untracked(() => void this.recorder.recover());
    });
  }

  /** What a new song was made for is opened at once. */
  private begin(id: string): void {
    const by = this.beginning.take(id);
    if (by === 'record') this.panels.open(INPUT);
    else if (by === 'import') void this.bringing.choose();
  }

  /** Stops and forgets what belongs to the song that was open. */
  private leave(): void {
    this.heldKey.cancel();
    this.player.reset();
    this.blind.end();
    this.blind.forget();
    this.panels.closeAll();
  }

  /** Saves what is kept of a song that cannot be read, as it is. */
  protected async saveRecord(): Promise<void> {
    await this.exporter.record(this.id(), await this.songs.record(this.id()));
  }

  /** A tab with steps that are not written asks before it goes. */
  protected hold(event: BeforeUnloadEvent): void {
    if (this.unsaved() > 0) event.preventDefault();
  }

  /** The list of commands is open, but its field has not got the focus yet: what is typed is meant for it. */
  private typeIntoList(event: KeyboardEvent): void {
    if (!this.panels.isOpen(COMMAND_LIST) || event.target instanceof HTMLInputElement) return;
    if (!this.list()?.take(event)) return;
    event.preventDefault();
    event.stopImmediatePropagation();
  }

  private keys(): Record<string, (event: KeyboardEvent) => void> {
    return bindings(this.commands.all, (command: Command, event) => {
      if (belongsToControl(event, this.focus.byKeyboard())) return;
      event.preventDefault();
      // A key that is held does its thing once, unless again and again makes sense.
      if (event.repeat && !command.repeats) return;
      if (command.hold) this.heldKey.down(event, command);
      else command.run(event.timeStamp);
    });
  }
}
