import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import { filter, firstValueFrom, timeout } from 'rxjs';
import {
  practise,
  type MidiBytes,
  type PlayedMessage,
  type PlayedNote,
  type PracticeMessage,
} from '@early-sparrow/core/record';
import { scoreOf } from '@early-sparrow/core/sound';
import { counted, meterOf, noteCount, tempoOf, type Song } from '@early-sparrow/core/song';
import { correctedTrack } from '@early-sparrow/core/treatment';
import { Said } from '../../common/said';
import { Inputs } from '../../input/inputs';
import { PracticeSource } from '../../input/practice-source';
import { Player } from '../../sound/player';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { HandingOver } from '../../state/handing-over';
import { PlayedStore, type Plan, type Unfinished } from '../../storage/played-store';
import { LiveTake } from './live-take';
import { Passes } from './passes';
import { Recordings, type Done } from './recordings';

/** Where what is played goes. */
export type Into = 'new' | 'add' | 'replace';

/** What was played is written so often, in ms. */
const WRITES = 400;
/** Another tab has so long to hand the song over, in ms. */
const HAND_OVER = 6000;

/** Records what is played in into the open song. */
@Injectable()
export class Recorder implements OnDestroy {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly inputs = inject(Inputs);
  private readonly kept = inject(PlayedStore);
  private readonly said = inject(Said);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly role = this.store.selectSignal(deskFeature.selectRole);
  private readonly writing = this.store.selectSignal(deskFeature.selectWriting);
  private readonly recordings = inject(Recordings);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);

  readonly recording = signal(false);
  readonly into = signal<Into>('new');
  /** Only inside the loop's range; the song goes on through it. */
  readonly punch = signal(false);
  /** The new part begins with the treatment of the current part, so that it is heard corrected at once. */
  readonly correct = signal(false);
  private readonly liveTake = new LiveTake();
  /** What is shown while it is played. */
  readonly live = this.liveTake.playing.asReadonly();
  /** Notes that were heard around the last recording and are in no part: before it, or outside of its punch range. */
  readonly outside = signal<readonly PlayedNote[]>([]);
  /** How the last recording went, until what lay outside of it is brought in. */
  private last: Plan | null = null;

  private plan: Plan | null = null;
  private began = '';
  private readonly passes = new Passes();
  private written = 0;
  private timer: ReturnType<typeof setInterval> | undefined;
  /** What was played up to a bar ago while nothing was recorded. */
  private recent: PlayedMessage[] = [];
  /** Recordings whose step is not on the disk yet: their messages are kept until it is. */
  private unsafe: { readonly song: string; readonly began: string }[] = [];
  /** Whether the source was listened to before recording. */
  private listened = false;
  private readonly ends: (() => void)[];

  /** What the practice player has before it: the current part as it is heard corrected. */
  private readonly practised = computed(() => {
    const [song, track, part] = [this.song(), this.track(), this.part()];
    if (!song || !track || !part) return () => [];
    const ids = new Set(part.notes.map((n) => n.id));
    const whole = correctedTrack(track, song);
    const notes = whole.notes.filter(({ note }) => ids.has(note.id));
    const score = scoreOf(track, { ...whole, notes }, tempoOf(song)).notes;
    const how = this.inputs.practice();
    // Nobody plays a round twice alike.
    const rounds = new Map<number, readonly PracticeMessage[]>();
    return (round: number): readonly PracticeMessage[] => {
      const known = rounds.get(round) ?? practise(score, { ...how, seed: how.seed + round });
      rounds.set(round, known);
      return known;
    };
  });
  /** While it records the practice player keeps to what it had before it then. */
  private readonly playsNow = signal<((round: number) => readonly PracticeMessage[]) | null>(null);

  constructor() {
    this.inputs.add(
      new PracticeSource(
        (round) => (this.playsNow() ?? this.practised())(round),
        (at) => this.player.heardAt(at),
        () => this.practiceLoop(),
        () => this.player.began(),
      ),
    );
    this.ends = [
      this.inputs.listen((bytes, at) => this.hear(bytes, at)),
      // Another tab gets the song with all that was played.
      inject(HandingOver).before(() => this.stop()),
    ];
    // A song that stops stops what is recorded with it; so does a right to write that was taken away.
    effect(() => {
      const silent = !this.player.playing() && !this.player.starting();
      if (silent || this.role() === 'reader') untracked(() => this.stop());
    });
    effect(() => {
      const { tick } = this.player.began();
      untracked(() => this.jumped(tick));
    });
    effect(() => {
      const [tick, round] = [this.player.position(), this.player.round()];
      untracked(() => this.reached(tick, round));
    });
    effect(() => {
      const { unsaved, trouble } = this.writing();
      if (unsaved === 0 && trouble === null) untracked(() => this.forget());
    });
  }

  ngOnDestroy(): void {
    this.stop();
    for (const end of this.ends) end();
    this.inputs.open.set(false);
  }

  toggle(): void {
    if (this.recording()) this.player.stop();
    else void this.start();
  }

  async start(): Promise<void> {
    if (!this.song() || this.recording() || !(await this.mayWrite())) return;
    const song = this.song();
    // Asked for once more while another tab was asked to hand the song over.
    if (!song || this.recording()) return;
    const track = this.track();
    if (this.into() !== 'new' && !this.part()) {
      this.said.say('Choose a part to record into, or record into a new track.');
      return;
    }
    const loop = this.range();
    if (this.punch() && !loop) {
      this.said.say('Punching in needs a range. Drag a loop in the strip above the bars first.');
      return;
    }
    this.listened = this.inputs.open();
    this.inputs.open.set(true);
    this.playsNow.set(this.practised());
    this.player.endless.set(true);
    if (this.punch()) this.player.loopOn.set(false);
    if (!this.player.playing()) this.player.position.set(this.startsAt(song));
    const at = this.player.position();
    this.plan = {
      track: this.into() === 'new' ? null : (track?.id ?? null),
      like: track?.id ?? null,
      into: this.into() === 'new' ? null : (this.part()?.id ?? null),
      replace: this.into() === 'replace',
      correct: this.correct(),
      latency: this.inputs.latency(),
      loop: this.player.loopOn() && !this.punch() ? loop : null,
      punch: this.punch() ? loop : null,
      from: at,
    };
    this.began = new Date().toISOString();
    // What was played in the bar before can be brought in afterwards.
    if (!this.player.playing()) this.recent = [];
    this.outside.set([]);
    this.passes.begin(tempoOf(song).toMs(at));
    this.written = 0;
    this.liveTake.clear();
    this.recording.set(true);
    this.timer = setInterval(() => void this.write(), WRITES);
    if (!this.player.playing()) await this.player.play();
    if (!this.player.playing()) this.stop();
  }

  /** Ends recording: what was played becomes one step. It is kept beside the song until that step is on the disk. */
  stop(): void {
    const { plan } = this;
    const song = this.song();
    if (!this.recording() || !plan || !song) return;
    clearInterval(this.timer);
    this.recording.set(false);
    this.player.endless.set(false);
    this.playsNow.set(null);
    this.inputs.open.set(this.listened);
    this.plan = null;
    this.last = plan;
    this.liveTake.clear();
    const passes = this.passes.end(tempoOf(song).toMs(this.player.position()));
    void this.write(plan);
    const outside = this.recordings.outside(plan, passes, this.recent);
    const done = this.recordings.put(plan, passes, this.began);
    this.outside.set(outside);
    this.recent = [];
    this.tell(done);
    if (done === 'refused') return;
    this.unsafe.push({ song: this.songId() ?? '', began: this.began });
    if (done === 'nothing') this.forget();
  }

  /** Brings in what was heard around the last recording. */
  fetchOutside(): void {
    const plan = this.last;
    const notes = this.outside();
    if (plan && notes.length > 0 && this.recordings.add(plan, notes) === 'done') this.outside.set([]);
  }

  /** Recordings whose tab was closed on the way, or could not write, are put into the song. */
  async recover(): Promise<void> {
    const id = this.songId();
    if (!id || this.recording()) return;
    const left = await this.kept.unfinished(id).catch((): Unfinished[] => []);
    if (left.length === 0 || this.songId() !== id || this.role() !== 'writer') return;
    let count = 0;
    for (const { began, plan, messages } of left) {
      if (this.recording() && began === this.began) continue;
      const before = this.count();
      // One whose step was written before its messages were forgotten is in the song already.
      const done = this.recordings.has(began)
        ? 'done'
        : this.recordings.put(plan, this.recordings.passesOf(plan, messages), began);
      if (done === 'refused') continue;
      count += Math.max(0, this.count() - before);
      this.unsafe.push({ song: id, began });
    }
    if (this.writing().unsaved === 0) this.forget();
    if (count > 0) this.said.say(`A recording that was cut off was recovered: ${counted(count, 'note')}.`);
  }

  private tell(done: Done): void {
    const out = this.outside().length;
    const offer = out > 0 ? ` ${counted(out, 'note')} outside it can be added under Input (I).` : '';
    if (done === 'refused') {
      this.said.say('Another tab is editing this song now. What you played is safe: choose “Edit here” to add it.');
    } else if (done === 'nothing') {
      this.said.say(
        out > 0 ? `Nothing was played in the range.${offer}` : 'Nothing was played, so nothing was recorded.',
      );
    } else if (offer && this.last?.punch) this.said.say(`Recorded.${offer}`);
  }

  /** Asks for the right to write before anything is played that could not be kept. */
  private async mayWrite(): Promise<boolean> {
    if (this.role() === 'writer') return true;
    this.store.dispatch(DeskActions.takeOver());
    const writer$ = this.store.select(deskFeature.selectRole).pipe(
      filter((role) => role === 'writer'),
      timeout(HAND_OVER),
    );
    const role = await firstValueFrom(writer$).catch(() => null);
    if (role === null) this.said.say('Another tab is editing this song and does not answer. Close that tab first.');
    return role !== null;
  }

  private hear(bytes: MidiBytes, at: number): void {
    // A track that is still to come is heard as the one that it sounds like.
    const track = this.plan?.track ?? this.track()?.id;
    if (track) this.player.live(track, bytes);
    const heard = this.player.heardAt(at);
    if (!heard) return;
    const message = { ...heard, bytes };
    // What is tried out while it counts in is no part of the take; a first note a hair early is.
    if (this.plan && this.recording() && this.passes.takes(message, this.plan.latency)) {
      this.passes.add(message);
      this.show(message);
    } else this.remember(message);
  }

  private jumped(tick: number): void {
    const song = this.song();
    if (this.recording() && song) this.passes.jump(tempoOf(song).toMs(tick));
  }

  private reached(tick: number, round: number): void {
    const song = this.song();
    if (this.recording() && song) this.passes.reach({ ms: tempoOf(song).toMs(tick), round });
  }

  /** What was played up to a bar ago. */
  private remember(message: PlayedMessage): void {
    const song = this.song();
    if (!song) return;
    const tick = tempoOf(song).toTick(message.ms);
    const bar = tempoOf(song).between(tick, tick + meterOf(song).pieceAt(tick).barTicks);
    this.recent = [...this.recent.filter((m) => m.ms <= message.ms && m.ms > message.ms - bar), message];
  }

  private show({ ms, bytes }: PlayedMessage): void {
    const song = this.song();
    if (!song) return;
    const tick = tempoOf(song).toTick(Math.max(0, ms - (this.plan?.latency ?? 0)));
    this.liveTake.hear(bytes, tick);
  }

  /** Writes what was played since the last time. */
  private async write(plan = this.plan): Promise<void> {
    const id = this.songId();
    const fresh = this.passes.messages.slice(this.written);
    if (!plan || !id || fresh.length === 0) return;
    this.written += fresh.length;
    try {
      await this.kept.add(id, this.began, plan, fresh);
    } catch {
      this.written -= fresh.length;
    }
  }

  /** Messages of recordings that are on the disk are needed no more. */
  private forget(): void {
    for (const { song, began } of this.unsafe.splice(0)) void this.kept.clear(song, began).catch(() => undefined);
  }

  private count(): number {
    return this.song()?.tracks.reduce((n, t) => n + noteCount(t), 0) ?? 0;
  }

  /** The song stands still: where recording begins. Behind a punch range nothing could be played into it. */
  private startsAt(song: Song): number {
    if (this.player.loopOn() && !this.punch()) return this.player.loop().from;
    const at = this.player.position();
    const range = this.punch() ? this.range() : null;
    if (!range || at < range.to) return at;
    const meter = meterOf(song);
    return meter.barStartAt(Math.max(0, range.from - 1));
  }

  private practiceLoop(): { from: number; to: number } | null {
    const song = this.song();
    const loop = this.range();
    if (!song || !loop || !this.player.loopOn()) return null;
    return { from: tempoOf(song).toMs(loop.from), to: tempoOf(song).toMs(loop.to) };
  }

  private range(): { from: number; to: number } | null {
    const { from, to } = this.player.loop();
    return to > from ? { from, to } : null;
  }
}
