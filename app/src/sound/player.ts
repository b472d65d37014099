import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { Scheduler, timeline, voiceKind, type Source } from '@early-sparrow/core/sound';
import { asPlayed } from '@early-sparrow/core/smf';
import { meterOf, songEnd, tempoOf, type Song } from '@early-sparrow/core/song';
import { correctedTrack } from '@early-sparrow/core/treatment';
import { deskFeature, type Compare } from '../state/desk.feature';
import { Said } from '../common/said';
import { AudioOutput } from './audio-output';

/** A stretch of the song in ticks. */
export interface Span {
  readonly from: number;
  readonly to: number;
}

/** Plays the open song, what is being tried included, and knows where it is. */
@Injectable({ providedIn: 'root' })
export class Player {
  private readonly store = inject(Store);
  private readonly said = inject(Said);
  private readonly song = this.store.selectSignal(deskFeature.selectShownSong);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);

  readonly playing = signal(false);
  /** The playhead, in ticks. */
  readonly position = signal(0);
  readonly loop = signal<Span>({ from: 0, to: 0 });
  readonly loopOn = signal(false);
  readonly clickOn = signal(false);
  /** Loudness while playing, in dB; −Infinity when silent. */
  readonly level = signal(-Infinity);
  readonly starting = signal(false);

  /** While the hold key is down the other of the two is heard. */
  readonly held = signal(false);
  /** What is seen. */
  readonly shown = computed(() => {
    const which = this.compare();
    return this.held() ? (which === 'played' ? 'corrected' : 'played') : which;
  });
  /** In a blind compare: the side that sounds, which is not shown; else null. */
  readonly blind = signal<Compare | null>(null);
  readonly heard = computed(() => this.blind() ?? this.shown());

  private output: AudioOutput | null = null;
  private scheduler: Scheduler | null = null;
  private timer: ReturnType<typeof setInterval> | undefined;
  private frame = 0;

  /** Plays from the playhead. */
  async play(): Promise<void> {
    if (this.playing() || this.starting() || !this.song()) return;
    this.starting.set(true);
    try {
      if (!this.output) {
        this.output = new AudioOutput();
        this.scheduler = new Scheduler(this.source(this.output), this.output);
      }
      await this.output.wake();
    } catch {
      this.said.say('The browser gives no sound. Check its sound settings and press play again.');
      return;
    } finally {
      this.starting.set(false);
    }
    const song = this.song();
    if (!song) return;
    this.playing.set(true);
    this.scheduler?.start(tempoOf(song).toMs(this.position() >= songEnd(song) ? 0 : this.position()));
    this.timer = setInterval(() => this.turn(), 25);
    this.follow();
  }

  /** Stops where it is; stops again at the start of the loop or of the song. */
  stop(): void {
    if (!this.playing()) {
      this.position.set(this.loopOn() ? this.loop().from : 0);
      return;
    }
    clearInterval(this.timer);
    cancelAnimationFrame(this.frame);
    this.scheduler?.stop();
    this.playing.set(false);
    this.level.set(-Infinity);
  }

  /** Silent, at the beginning and without a loop: for another song. */
  reset(): void {
    if (this.playing()) this.stop();
    this.position.set(0);
    this.loop.set({ from: 0, to: 0 });
    this.loopOn.set(false);
    this.held.set(false);
    this.blind.set(null);
  }

  toggle(): void {
    if (this.playing()) this.stop();
    else void this.play();
  }

  /** Moves the playhead; while playing the sound goes on from there. */
  seek(tick: number): void {
    this.position.set(Math.max(0, tick));
    const song = this.song();
    if (!this.playing() || !song) return;
    this.scheduler?.stop();
    this.scheduler?.start(tempoOf(song).toMs(this.position()));
  }

  private turn(): void {
    this.scheduler?.turn();
    if (this.scheduler && !this.scheduler.playing) this.stop();
  }

  private follow(): void {
    const song = this.song();
    if (!this.playing() || !song || !this.scheduler || !this.output) return;
    this.position.set(tempoOf(song).toTick(this.scheduler.position()));
    this.level.set(this.output.level());
    this.frame = requestAnimationFrame(() => this.follow());
  }

  /** Reads the store anew at each turn. */
  private source(output: AudioOutput): Source {
    const need = (): Song => {
      const song = this.song();
      if (!song) throw new Error('Nothing is open to play.');
      return song;
    };
    return {
      tracks: () => {
        const song = need();
        output.mix(song.tracks.map((t) => ({ kind: voiceKind(t), level: t.level, pan: t.pan })));
        const solo = song.tracks.some((t) => t.solo);
        const played = this.heard() === 'played' ? asPlayed(song) : null;
        return song.tracks.flatMap((t, track) =>
          t.parts.length === 0 || t.mute || (solo && !t.solo)
            ? []
            : [{ track, notes: timeline(played ? played[track] : correctedTrack(t, song), tempoOf(song)) }],
        );
      },
      beats: (from, to) => (this.clickOn() ? beats(need(), from, to) : []),
      loop: () => {
        if (!this.loopOn() || this.loop().to <= this.loop().from) return null;
        const tempo = tempoOf(need());
        return { from: tempo.toMs(this.loop().from), to: tempo.toMs(this.loop().to) };
      },
      end: () => tempoOf(need()).toMs(songEnd(need())) + 500,
    };
  }
}

/** A click is not struck more often than this. */
const FASTEST_CLICK_MS = 40;

/** Beats of the meter from one time to another, in ms. */
function beats(song: Song, fromMs: number, toMs: number): { ms: number; accent: boolean }[] {
  const tempo = tempoOf(song);
  const meter = meterOf(song);
  const found: { ms: number; accent: boolean }[] = [];
  let bar = meter.barStartAt(tempo.toTick(fromMs));
  for (let end = tempo.toTick(toMs); bar < end; bar = meter.nextBarStart(bar)) {
    const { beatTicks } = meter.pieceAt(bar);
    const next = meter.nextBarStart(bar);
    const beat = tempo.between(bar, bar + beatTicks);
    // Beats that follow each other this fast are no click any more but a tone.
    for (let tick = bar; tick < next && beat >= FASTEST_CLICK_MS; tick += beatTicks) {
      const ms = tempo.toMs(tick);
      if (ms >= fromMs && ms < toMs) found.push({ ms, accent: tick === bar });
    }
  }
  return found;
}
