import { inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  clickOf,
  filesOf,
  mixOf,
  scoresOf,
  soundsOf,
  wholeSpan,
  type MsSpan,
  type Rendering,
  type WavBits,
} from '@early-sparrow/core/sound';
import { songEnd, tempoOf, type Song } from '@early-sparrow/core/song';
import { perform } from '@early-sparrow/core/treatment';
import { Said } from '../../common/said';
import { AudioFiles } from '../../sound/audio-files';
import { Bank } from '../../sound/bank';
import { Player } from '../../sound/player';
import { deskFeature, type Compare } from '../../state/desk.feature';
import type { BankSample, WavApi } from '../../workers/wav-api';
import { wavWorker } from '../../workers/wav-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';
import { Exporter, NOT_FOLLOWED } from '../files/exporter';
import { Following, FollowingFault } from '../hand/following';

/** What goes into a file. */
export interface WavWishes {
  readonly what: 'song' | 'track' | 'loop';
  /** `both`: as played, then corrected, for comparing. */
  readonly side: Compare | 'both';
  readonly bits: WavBits;
  readonly rate: 44_100 | 48_000;
  readonly click: boolean;
}

/** Longer files are not written, in seconds: they would not fit into memory. */
const LONGEST = 3600;

/** Renders the open song into WAV files, in a worker. */
@Injectable()
export class WavExport implements OnDestroy {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly bank = inject(Bank);
  private readonly files = inject(AudioFiles);
  private readonly said = inject(Said);
  private readonly exporter = inject(Exporter);
  private readonly following = inject(Following);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly link = new WorkerLink<WavApi>(wavWorker);
  private asked: AbortController | null = null;

  /** Share that is done; null while nothing is rendered. */
  readonly progress = signal<number | null>(null);

  ngOnDestroy(): void {
    this.link.end();
  }

  cancel(): void {
    this.asked?.abort();
  }

  /** Renders and saves; says what was wrong where it could not. */
  async write(wishes: WavWishes): Promise<void> {
    const song = this.song();
    if (!song || this.progress() !== null) return;
    const span = this.spanOf(song, wishes);
    if (!span) {
      this.said.say('There is no loop to export. Drag one in the strip above the bars, or export the song.');
      return;
    }
    if ((span.to - span.from) / 1000 > LONGEST) {
      this.said.say('This is longer than an hour. Loop the part you need and export that.');
      return;
    }
    const asked = new AbortController();
    this.asked = asked;
    this.progress.set(0);
    try {
      const renderings = await this.renderings(song, wishes, span);
      const sounds = await this.soundsFor(renderings);
      if (asked.signal.aborted) return;
      const bytes = await this.link.ask((api, told) => api.render(renderings, sounds, wishes.bits, told), {
        signal: asked.signal,
        told: (share) => this.progress.set(share),
      });
      await this.exporter.wav(bytes, nameOf(song, this.track()?.name ?? '', wishes));
    } catch (error) {
      if (error instanceof FollowingFault) this.said.say(NOT_FOLLOWED);
      else if (!(error instanceof Cancelled))
        this.said.say('The file could not be rendered. Export a shorter range, or close other programs and try again.');
    } finally {
      this.progress.set(null);
    }
  }

  private spanOf(song: Song, { what }: WavWishes): MsSpan | null {
    if (what !== 'loop') return wholeSpan(song);
    const { from, to } = this.player.loop();
    const tempo = tempoOf(song);
    return to > from ? { from: tempo.toMs(from), to: tempo.toMs(to) } : null;
  }

  private async renderings(song: Song, wishes: WavWishes, span: MsSpan): Promise<Rendering[]> {
    const sides: Compare[] = wishes.side === 'both' ? ['played', 'corrected'] : [wishes.side];
    const alone = wishes.what === 'track' ? this.track()?.id : undefined;
    const mix = mixOf(song).map((m) => (alone === undefined ? m : { ...m, audible: m.id === alone }));
    const ticks = wishes.click ? clickOf(song, songEnd(song), { divide: 1 }) : undefined;
    // Lines that are still being found are waited for.
    const make = (song: Song) => sides.map((side) => scoresOf(song, perform(song, side)));
    const all = await this.following.whole(song, make);
    const files = await this.files.sounds(filesOf(all.flat()));
    return all.map((scores) => ({ scores, mix, ticks, files, span, rate: wishes.rate }));
  }

  private async soundsFor(renderings: readonly Rendering[]): Promise<BankSample[]> {
    const found = soundsOf(renderings.flatMap((r) => r.scores));
    const samples = await Promise.all(found.map(async (s) => ({ ...s, bytes: await this.bank.sound(s) })));
    return samples.flatMap(({ bytes, ...sound }) => (bytes ? [{ ...sound, bytes }] : []));
  }
}

function nameOf(song: Song, track: string, { what, side }: WavWishes): string {
  const which = side === 'both' ? 'both' : side === 'played' ? 'as played' : 'corrected';
  return `${song.name}${what === 'track' ? `, ${track}` : what === 'loop' ? ', loop' : ''} (${which})`;
}
