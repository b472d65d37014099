import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import { countIn, leadTo, NO_TICKS, TICKS, type Ticking } from '@early-sparrow/core/sound';
import { onChannel, transposed, type MidiBytes } from '@early-sparrow/core/record';
import { playedSounding } from '@early-sparrow/core/performance';
import { newSong, songEnd, tempoOf, withPart, withVersion, type Song } from '@early-sparrow/core/song';
import type { Ms, TempoMap } from '@early-sparrow/core/time';
import { correctedSounding, lastEndOf } from '@early-sparrow/core/treatment';
import { deskFeature, type Compare } from '../state/desk.feature';
import { inTurnsLast } from '../common/in-turns';
import { Said } from '../common/said';
import { DevicePlayer } from '../output/device-player';
import { Outputs } from '../output/outputs';
import { AudioFiles } from './audio-files';
import type { FromEngine } from './engine-api';
import { ListeningSettings } from './listening-settings';
import { LiveRoutes, type LiveRoute } from './live-routes';
import { ScoreSender } from './score-sender';
import { NoSoundDevice, type SoundDevice } from './sound-device';
import { SongMix } from './song-mix';
import { SongTicks } from './song-ticks';
import { Sounds } from './sounds';
import { WakingDevice } from './waking-device';

/** A stretch of the song in ticks. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

const NOTHING = newSong('');

/** What can be heard: a side of the compare switch, or another version of a part's treatment. */
export type Side = Compare | { readonly part: string; readonly version: string };

/** The engine begins with a moment of silence, and tells it as time before the first note. */
const BEFORE_SOUND: Ms = 20;
/** While nothing plays, the engine learns of a change this long after it, in ms. */
const REST_MS = 150;

/** Plays the open song, what is being tried included, and knows where it is. */
@Injectable({ providedIn: 'root' })
export class Player {
  private readonly store = inject(Store);
  private readonly said = inject(Said);
  private readonly sounds = inject(Sounds);
  private readonly files = inject(AudioFiles);
  private readonly settings = inject(ListeningSettings);
  private readonly outputs = inject(Outputs);
  private readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);

  readonly playing = signal(false);
  /** The playhead, in ticks. */
  readonly position = signal(0);
  /** Turn of the loop that is heard, from 0. */
  readonly round = signal(0);
  readonly loop = signal<Span>({ from: 0, to: 0 });
  readonly loopOn = signal(false);
  /** 1 as it is, 0.5 for close listening. */
  readonly rate = signal(1);
  /** It does not end with the song: something is recorded. */
  readonly endless = signal(false);
  /** Only these notes sound; null: all. */
  readonly only = signal<ReadonlySet<number> | null>(null);
  /** Where the notes of the chosen track were meant, as ticks to be heard. */
  readonly lines = signal<Ticking>(NO_TICKS);
  /** Beats that are looked at, as ticks to be heard in place of the click; null for none. */
  readonly beats = signal<Ticking | null>(null);
  /** Loudness while playing, in dB; −Infinity when silent. */
  readonly level = signal(-Infinity);
  /** It plays as soon as the sound engine is awake, unless it is stopped before. */
  readonly starting = signal(false);
  private coming: Promise<void> = Promise.resolve();
  /** How often the audio thread did not keep up since the start, and how many notes came late. */
  readonly trouble = signal({ gaps: 0, late: 0 });

  /** While the hold key is down the other of the two is heard. */
  readonly held = signal(false);
  /** What is seen. */
  readonly shown = computed(() => {
    const which = this.compare();
    return this.held() ? (which === 'played' ? 'corrected' : 'played') : which;
  });
  /** In a blind compare: the side that sounds, which is not shown; else null. */
  readonly blind = signal<Side | null>(null);
  readonly heard = computed((): Compare => {
    const side = this.blind() ?? this.shown();
    return side === 'played' ? 'played' : 'corrected';
  });
  /** The song with what is heard of it. */
  private readonly heardSong = computed(() => {
    const song = this.song();
    const side = this.blind();
    if (!song || side === null || typeof side === 'string') return song;
    return withPart(song, side.part, (part) => withVersion(part, side.version));
  });

  private readonly waking = new WakingDevice((device) => this.begun(device));
  private readonly device = this.waking.device;
  /** Where playing ends, in ticks; null for the song's end. */
  readonly until = signal<number | null>(null);
  private readonly ticking = new SongTicks(this.song, this.loop, this.lines, this.beats, this.settings, this.outputs);
  private readonly mix = new SongMix(
    computed(() => this.song() ?? NOTHING),
    this,
    this.outputs,
  );
  private sender: ScoreSender | null = null;
  /** Ends what is sent in turns with the page. */
  private sending: AbortController | null = null;
  /** How much earlier playing began than the playhead stood, and the loop is gone round than it is drawn; in ms. */
  private begunEarly = 0;
  private early = 0;
  private frame = 0;
  private clicking = false;
  private readonly liveRoutes = new LiveRoutes();
  private readonly devices = new DevicePlayer((at) => this.device()?.heardAt(at)?.ms ?? null);
  /** The devices begin with the first leg of the audio engine. */
  private waiting = false;
  /** The last attempt found no sound device, and a message said so. */
  private deviceMissing = false;
  /** Where playing began or jumped to last, in ticks; another object each time. */
  readonly began = signal<{ readonly tick: number }>({ tick: 0 });

  constructor() {
    // What changes is heard at once; the engine knows the whole song, so that nothing here can make a note late.
    effect((onCleanup) => {
      if (this.playing()) {
        this.sendScores();
        untracked(() => this.leadLoop());
        return;
      }
      // While nothing sounds it may wait until a change, such as a drag, has come to rest.
      for (const depends of [this.heardSong, this.device, this.heard, this.only, this.outputs.all]) depends();
      const sending = new AbortController();
      this.sending = sending;
      const rest = setTimeout(() => void inTurnsLast(this.scores(), sending.signal), REST_MS);
      onCleanup(() => {
        clearTimeout(rest);
        sending.abort();
      });
    });
    effect(() => this.sendTicks());
    effect(() => this.sendMix());
    effect(() => this.sendStretch());
    effect(() => this.devices.setClock(this.ticking.clock(), this.outputs.clocked()));
    // After the page has closed nothing would release the keys of an outside device.
    addEventListener('pagehide', () => this.pause());
  }

  /** Plays from the playhead; done once it plays, or cannot. */
  play(): Promise<void> {
    if (this.playing() || !this.song()) return Promise.resolve();
    if (!this.starting()) {
      this.starting.set(true);
      this.coming = this.start();
    }
    return this.coming;
  }

  private async start(): Promise<void> {
    const awake = await this.awake();
    const wanted = this.starting();
    this.starting.set(false);
    if (!awake || !wanted) return;
    const song = this.song();
    const device = this.device();
    if (!song || !device) return;
    this.clicking = false;
    this.playing.set(true);
    this.trouble.set({ gaps: 0, late: 0 });
    this.sendScores();
    this.sendTicks();
    this.sendRest();
    // From its end a song begins anew, unless something is recorded behind it.
    const over = !this.endless() && this.position() >= (this.until() ?? songEnd(song, lastEndOf));
    const at = over ? 0 : this.position();
    this.begin(song, device, at, this.settings.values().countIn);
    this.follow();
    this.sounds.want();
  }

  /** Plays a stretch of the song. @param ids notes that sound alone; null for all */
  playOnly(ids: ReadonlySet<number> | null, span: Span): Promise<void> {
    if (this.playing()) this.halt();
    this.only.set(ids);
    this.until.set(span.to);
    this.position.set(span.from);
    return this.play();
  }

  /** Stops where it is, if it plays or is about to. */
  pause(): void {
    if (this.playing() || this.starting()) this.halt();
  }

  /** Stops where it is; stops again at the start of the loop or of the song. */
  stop(): void {
    if (this.playing() || this.starting()) this.pause();
    else this.position.set(this.loopOn() ? this.loop().from : 0);
  }

  /** Ends everything that sounds, whatever it is. */
  silence(): void {
    this.halt();
    this.device()?.say({ say: 'stop' });
  }

  /** Silent, at the beginning and without a loop: for another song. */
  reset(): void {
    this.halt();
    this.position.set(0);
    this.loop.set({ from: 0, to: 0 });
    this.loopOn.set(false);
    this.held.set(false);
    this.blind.set(null);
    this.only.set(null);
    this.rate.set(1);
  }

  toggle(): void {
    if (this.playing() || this.starting()) this.stop();
    else void this.play();
  }

  /** Moves the playhead; while playing the sound goes on from there. */
  seek(tick: number): void {
    this.position.set(Math.max(0, tick));
    const song = this.song();
    const device = this.device();
    if (this.playing() && song && device) this.begin(song, device, this.position(), 0);
  }

  /** Song time in ms, and the round of the loop, heard at a time of the page's clock; null while nothing plays. */
  heardAt(at: number): { readonly ms: number; readonly round: number } | null {
    return this.playing() ? (this.device()?.heardAt(at) ?? null) : null;
  }

  /** Lets what is played in be heard with a track's voice, or on the device that it goes to. */
  live(hand: string, bytes: MidiBytes): void {
    const device = this.device();
    if (!device) return;
    // What is played keeps the engine awake.
    void device.wake();
    if (!this.playing()) this.waking.restLater();
    const route = this.liveRoutes.of(bytes, () => this.routeOf(hand));
    const sounds = transposed(bytes, route.transpose);
    if (!sounds) return;
    if (route.device) route.device.send(onChannel(sounds, route.channel), performance.now());
    else device.say({ say: 'live', track: route.track, bytes: sounds });
  }

  /** Where what is played with a track's voice sounds: as it will when it is played back. */
  private routeOf(id: string): LiveRoute {
    const track = this.song()?.tracks.find((t) => t.id === id);
    return {
      track: id,
      device: this.outputs.find(track?.output ?? null),
      channel: this.sender?.scoreOf(id)?.slots.at(0)?.channel ?? 0,
      transpose: track?.transpose ?? 0,
    };
  }

  /**
   * Clicks alone, for tapping along.
   * @param beats in ms from now
   * @param end in ms
   * @returns whether they sound; if not, the user has been told why
   */
  async clicks(beats: readonly number[], end: number): Promise<boolean> {
    const awake = await this.awake();
    const device = this.device();
    if (!awake || !device) return false;
    this.clicking = true;
    const kind = new Uint8Array(beats.length).fill(TICKS.indexOf('beat'));
    // No note of the song sounds meanwhile: playing begins after the last of them.
    device.begin();
    device.say({ say: 'mix', tracks: this.mix.tracks().map((t) => ({ ...t, audible: false })) });
    device.say({ say: 'ticks', ticks: { at: Float64Array.from(beats), kind }, on: true, gain: 1 });
    device.say({ say: 'loop', loop: null });
    device.say({ say: 'rate', rate: 1 });
    device.say({ say: 'end', end });
    device.say({ say: 'start', from: 0, lead: NO_TICKS });
    return true;
  }

  /** Time in the clicks that was heard at a time of the page's clock, in ms; null while there are none. */
  clickedAt(at: number): number | null {
    return this.clicking ? (this.device()?.heardAt(at)?.ms ?? null) : null;
  }

  stopClicks(): void {
    if (!this.clicking) return;
    this.clicking = false;
    this.halt();
    this.sendTicks();
    this.sendRest();
  }

  /** Wakes the audio engine for what is played in while the song stands still. @returns as {@link clicks} */
  async wake(): Promise<boolean> {
    if (this.playing()) return true;
    if (!(await this.awake())) return false;
    this.sendScores();
    this.sendTicks();
    this.sendRest();
    this.sounds.want();
    return true;
  }

  private async awake(): Promise<boolean> {
    // A second press after the message means: run without sound.
    if (this.deviceMissing) this.waking.goSilent();
    this.deviceMissing = false;
    try {
      await this.waking.wake();
      return true;
    } catch (error) {
      this.deviceMissing = error instanceof NoSoundDevice;
      this.said.say(
        this.deviceMissing
          ? 'No sound device answers. Connect one and reload the page, or press Play again to run without sound.'
          : 'The browser plays no sound. Check its sound settings and try again.',
      );
      return false;
    }
  }

  private begin(song: Song, device: SoundDevice, tick: number, bars: number): void {
    device.begin();
    this.began.set({ tick });
    this.round.set(0);
    this.waiting = true;
    this.position.set(tick);
    const early = (this.begunEarly = this.leadAt(tick));
    const { at, kind } = countIn(song, tick, bars);
    const from = tempoOf(song).toMs(tick) - early;
    device.say({ say: 'start', from, lead: { at: at.map((ms) => ms + early), kind } });
  }

  private halt(): void {
    cancelAnimationFrame(this.frame);
    const device = this.device();
    device?.say({ say: 'stop' });
    device?.finish();
    this.waiting = false;
    this.devices.stop();
    if (device) this.waking.restLater();
    this.starting.set(false);
    this.playing.set(false);
    this.level.set(-Infinity);
    this.until.set(null);
  }

  /** Makes the audio engine ready before sound is wanted. */
  prepare(): void {
    this.waking.prepare();
  }

  /** A sound device was opened. */
  private begun(device: SoundDevice): void {
    const { context } = device;
    this.sender = new ScoreSender((id, score, handed) => device.say({ say: 'track', id, score }, handed));
    device.listen((told) => this.hear(told));
    context.addEventListener('statechange', () => {
      if (context.state === 'running' || !this.playing()) return;
      this.halt();
      this.said.say('The browser stopped the sound. Press Play to continue.');
    });
    this.sounds.use(device);
    this.files.use(device);
  }

  private hear(told: FromEngine): void {
    if (told.tell === 'leg' && this.waiting) {
      this.waiting = false;
      const { leg } = told;
      // A count-in is heard here alone.
      const begins = tempoOf(this.song() ?? NOTHING).toMs(this.began().tick);
      const at = this.device()?.timeOf(leg) ?? performance.now();
      this.devices.start(begins, at + ((begins - leg.ms) * 1000) / leg.msPerSecond);
    } else if (told.tell === 'ended') {
      if (!this.playing()) return;
      this.halt();
      if (this.only()) this.only.set(null);
    } else if (told.tell === 'struck' && told.late > 0) {
      this.trouble.update((t) => ({ ...t, late: t.late + told.late }));
    }
  }

  private follow(): void {
    const song = this.song();
    const device = this.device();
    if (!this.playing() || !song || !device) return;
    const heard = device.heardAt();
    if (heard) {
      this.round.set(heard.round);
      this.position.set(this.tickAt(heard.ms, tempoOf(song)));
    }
    this.level.set(device.level());
    if (device.gaps !== this.trouble().gaps) this.trouble.update((t) => ({ ...t, gaps: device.gaps }));
    this.frame = requestAnimationFrame(() => this.follow());
  }

  /** The tick at a time that is heard. While what is early for a line leads in, the playhead stands at the line. */
  private tickAt(ms: number, tempo: TempoMap): number {
    for (const [line, early] of [
      [this.began().tick, this.begunEarly],
      [this.loop().from, this.early],
    ]) {
      const before = tempo.toMs(line) - ms;
      if (early > 0 && before > 0 && before <= early + BEFORE_SOUND) return line;
    }
    return Math.max(0, tempo.toTick(Math.max(0, ms)));
  }

  private sendScores(): void {
    this.sending?.abort();
    atOnce(this.scores());
  }

  /** Sends the engine what changed of what sounds. */
  private *scores(): Pieces<void> {
    const song = this.heardSong();
    const device = this.device();
    if (!song || !device || !this.sender) return;
    const [played, only] = [this.heard() === 'played', this.only()];
    const tracks = [];
    for (const track of song.tracks) {
      const performed = (played ? playedSounding : correctedSounding)(track, song);
      tracks.push({ track, performed });
      yield;
    }
    yield* this.sender.update(tracks, tempoOf(song), only);
    for (const { track } of tracks) {
      const device = this.outputs.find(track.output);
      const score = device && this.sender.scoreOf(track.id);
      this.devices.setRoute(track.id, device && score ? { device, score } : null);
    }
    untracked(() => this.sounds.need(this.sender?.sounds() ?? []));
  }

  private sendTicks(): void {
    const { clickLevel } = this.settings.values();
    this.device()?.say({ say: 'ticks', ticks: this.ticking.heard(), on: true, gain: clickLevel / 0.7 });
  }

  private sendRest(): void {
    this.sendMix();
    this.sendStretch();
  }

  private sendMix(): void {
    const mix = this.mix.tracks();
    const away = this.mix.away();
    this.device()?.say({ say: 'mix', tracks: mix.map((t) => (away.has(t.id) ? { ...t, audible: false } : t)) });
    for (const { id, audible } of mix) this.devices.setAudible(id, audible);
  }

  /**
   * How much earlier than a place playing begins, in ms, so that what was played early for it is heard. During a recording
   * it does not: the rounds of the loop are told apart by the place where it is drawn.
   */
  private leadAt(tick: number): number {
    return untracked(() => {
      const song = this.heardSong();
      if (!song || this.endless()) return 0;
      const heard = new Set(this.mix.tracks().flatMap((t) => (t.audible ? [t.id] : [])));
      return leadTo(tick, song, this.heard(), ({ id }) => heard.has(id));
    });
  }

  /** How much earlier a loop is gone round: by what is early for its first line, or for the one behind it. In ms. */
  private loopLead(): number {
    const [{ loop }, { from, to }] = [this.mix.stretch(), this.loop()];
    return loop ? Math.min(loop.from, Math.max(this.leadAt(from), this.leadAt(to))) : 0;
  }

  /** Goes round the loop anew where other notes are early for it than before: one was moved, or a track is heard again. */
  private leadLoop(): void {
    const early = this.loopLead();
    if (this.playing() && early !== this.early) this.sendLoop(early);
  }

  /** The last moment of a round belongs to the next one where its first notes are early. */
  private sendLoop(early = this.loopLead()): void {
    const { loop } = this.mix.stretch();
    this.early = early;
    const led = loop && { from: loop.from - early, to: loop.to - early };
    this.devices.setLoop(led);
    this.device()?.say({ say: 'loop', loop: led });
  }

  private sendStretch(): void {
    this.sendLoop();
    const { end, rate } = this.mix.stretch();
    this.devices.setRate(rate);
    const device = this.device();
    device?.say({ say: 'end', end });
    device?.say({ say: 'rate', rate });
  }
}
