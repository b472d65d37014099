import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  collect,
  practise,
  recordedEdit,
  trackLike,
  type MidiBytes,
  type PlayedMessage,
  type PracticeMessage,
  type Recording,
} from '@early-sparrow/core/record';
import { applyEdit, isProblem } from '@early-sparrow/core/edit';
import { scoreOf } from '@early-sparrow/core/sound';
import { counted, meterOf, tempoOf, type Song } from '@early-sparrow/core/song';
import { correctedTrack } from '@early-sparrow/core/treatment';
import { Said } from '../../common/said';
import { Inputs } from '../../input/inputs';
import { PracticeSource } from '../../input/practice-source';
import { Player } from '../../sound/player';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { LiveTake } from './live-take';
import { PlayedStore, type Plan, type Unfinished } from '../../storage/played-store';

/** Where what is played goes. */
export type Into = 'new' | 'add' | 'replace';

/** A first note may be played so long before recording begins, in ms. */
const EARLY_FIRST = 200;

/** What was played is written so often, in ms. */
const WRITES = 400;

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
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);

  readonly recording = signal(false);
  readonly into = signal<Into>('new');
  /** Only inside the loop's range; the song goes on through it. */
  readonly punch = signal(false);
  /** The new part begins with the treatment of the part at hand, so that it is heard corrected at once. */
  readonly correct = signal(false);
  private readonly liveTake = new LiveTake();
  /** What is shown while it is played. */
  readonly live = this.liveTake.playing.asReadonly();
  /** What was played before record was pressed, up to a bar of it. */
  readonly before = signal<readonly PlayedMessage[]>([]);
  /** How the last recording went, until it is fetched from before. */
  private last: Plan | null = null;

  private plan: Plan | null = null;
  private began = '';
  private messages: PlayedMessage[] = [];
  private written = 0;
  private timer: ReturnType<typeof setInterval> | undefined;
  private recent: PlayedMessage[] = [];
  /** Whether the source was listened to before recording. */
  private listened = false;
  private readonly unlisten: () => void;

  /** What the practice player has before it: the part at hand as it is heard corrected. */
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
      ),
    );
    this.unlisten = this.inputs.listen((bytes, at) => this.hear(bytes, at));
    // A song that stops stops what is recorded with it.
    effect(() => {
      if (!this.player.playing() && !this.player.starting()) untracked(() => this.stop());
    });
  }

  ngOnDestroy(): void {
    this.stop();
    this.unlisten();
    this.inputs.open.set(false);
  }

  toggle(): void {
    if (this.recording()) this.player.stop();
    else void this.start();
  }

  async start(): Promise<void> {
    const song = this.song();
    if (!song || this.recording()) return;
    const track = this.track();
    if (this.into() !== 'new' && !this.part()) {
      this.said.say('Choose a part to record into first, or record into a new track.');
      return;
    }
    const loop = this.range();
    if (this.punch() && !loop) {
      this.said.say('Punching needs a range. Drag a loop in the strip over the bars first.');
      return;
    }
    this.listened = this.inputs.open();
    this.inputs.open.set(true);
    this.playsNow.set(this.practised());
    this.player.endless.set(true);
    if (this.punch()) this.player.loopOn.set(false);
    const at = this.player.playing() ? this.player.position() : this.startsAt();
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
    // What was played in the bar before stays at hand.
    this.before.set(this.player.playing() ? this.recent : []);
    this.messages = [];
    this.written = 0;
    this.liveTake.clear();
    this.recording.set(true);
    this.timer = setInterval(() => void this.write(), WRITES);
    if (!this.player.playing()) await this.player.play();
    if (!this.player.playing()) this.stop();
  }

  /** Ends recording: what was played becomes one step. */
  stop(): void {
    const { plan } = this;
    if (!this.recording() || !plan) return;
    clearInterval(this.timer);
    this.recording.set(false);
    this.player.endless.set(false);
    this.playsNow.set(null);
    this.inputs.open.set(this.listened);
    this.plan = null;
    this.last = plan;
    const count = this.put(plan, this.messages, this.player.position());
    this.liveTake.clear();
    if (count === 0) this.said.say('Nothing was played, so nothing was recorded.');
    void this.kept.clear(this.songId() ?? '');
  }

  /** Brings in what was played up to a bar before record was pressed. */
  fetchBefore(): void {
    const plan = this.last;
    const part = this.part();
    if (!plan || !part || this.before().length === 0) return;
    const messages = this.before();
    this.put(
      { ...plan, track: this.track()?.id ?? null, into: part.id, replace: false, loop: null, punch: null, from: 0 },
      messages,
    );
    this.before.set([]);
  }

  /** Recordings whose tab was closed on the way are put into the song. */
  async recover(): Promise<void> {
    const id = this.songId();
    if (!id) return;
    const left = await this.kept.unfinished(id).catch((): Unfinished[] => []);
    if (left.length === 0 || this.songId() !== id) return;
    let count = 0;
    for (const { plan, messages } of left) {
      count += this.put(plan, messages);
    }
    await this.kept.clear(id);
    if (count > 0) this.said.say(`A recording that was cut off was brought back: ${counted(count, 'note')}.`);
  }

  private hear(bytes: MidiBytes, at: number): void {
    // A track that is still to come is heard as the one that it sounds like.
    const track = this.plan?.track ?? this.track()?.id;
    if (track) this.player.live(track, bytes);
    const heard = this.player.heardAt(at);
    if (!heard) return;
    const message = { ...heard, bytes };
    if (this.recording()) {
      this.messages.push(message);
      this.show(message);
    } else this.remember(message);
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
  private async write(): Promise<void> {
    const { plan } = this;
    const id = this.songId();
    const fresh = this.messages.slice(this.written);
    if (!plan || !id || fresh.length === 0) return;
    this.written += fresh.length;
    try {
      await this.kept.add(id, this.began, plan, fresh);
    } catch {
      this.written -= fresh.length;
    }
  }

  /**
   * @param stopped where recording ended, in ticks; left out, with the last thing that was played
   * @returns how many notes came in
   */
  private put(plan: Plan, messages: readonly PlayedMessage[], stopped = 0): number {
    const song = this.song();
    if (!song) return 0;
    const find = (id: string | null) => song.tracks.find((t) => t.id === id) ?? null;
    const track = find(plan.track) ?? trackLike(song, freeName(song), find(plan.like));
    const tempo = tempoOf(song);
    const meter = meterOf(song);
    const { loop, punch } = plan;
    const endMs = messages.reduce((last, m) => Math.max(last, m.ms), 0) + 1;
    // The playhead that is shown lags a little behind what is played.
    const stop = Math.max(tempo.toMs(stopped), messages.at(-1)?.ms ?? 0);
    const end = loop ? tempo.toMs(loop.to) : Math.max(endMs, stop);
    // What is tried out while it counts in is no part of the take; a first note a hair early is.
    const begins = tempo.toMs(plan.from) - EARLY_FIRST;
    const taken = messages.filter((m) => m.round > 0 || m.ms - plan.latency >= begins);
    const rounds = collect(taken, {
      tempo,
      latency: plan.latency,
      end,
      stopped: stop,
      begin: loop ? tempo.toMs(loop.from) : null,
      channel: track.channel ?? (track.parts[0] ?? find(plan.like)?.parts[0])?.notes[0]?.channel ?? null,
      punch: punch ? { from: tempo.toMs(punch.from), to: tempo.toMs(punch.to) } : null,
    });
    const span = loop ?? punch ?? { from: plan.from, to: tempo.toTick(endMs) };
    const to: Recording = {
      track,
      into: track.parts.find((p) => p.id === plan.into) ?? null,
      replace: plan.replace ? span : null,
      treatment: plan.correct ? (this.part()?.treatment ?? null) : null,
      name: `Record ${track.name}`,
      from: meter.barStartAt(span.from),
      to: Math.max(meter.nextBarStart(Math.max(0, Math.ceil(span.to) - 1)), meter.nextBarStart(span.from)),
    };
    const edit = recordedEdit(song, rounds, to);
    if (!edit) return 0;
    const done = applyEdit(song, edit);
    if (isProblem(done)) {
      // Nothing that was played is lost: a track of its own takes it in any case.
      if (plan.track === null) return 0;
      const count = this.put({ ...plan, track: null, into: null, replace: false }, messages, stopped);
      this.said.say(`${done.problem} What was played is in a track of its own.`);
      return count;
    }
    this.store.dispatch(DeskActions.edit({ edit }));
    const partId = edit.kind === 'parts' ? edit.add[0]?.id : undefined;
    this.store.dispatch(DeskActions.selectTrack({ trackId: track.id, partId }));
    return rounds.reduce((n, r) => n + r.notes.length, 0);
  }

  private startsAt(): number {
    return this.player.loopOn() ? this.player.loop().from : this.player.position();
  }

  private range(): { from: number; to: number } | null {
    const { from, to } = this.player.loop();
    return to > from ? { from, to } : null;
  }
}

/** A name for a track that no other has. */
function freeName(song: Song): string {
  const names = new Set(song.tracks.map((t) => t.name));
  let n = 1;
  while (names.has(`Recording ${n}`)) n++;
  return `Recording ${n}`;
}
