import { inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { fileOpen } from 'browser-fs-access';
import { barsOf, referenceEdit, type Hit } from '@early-sparrow/core/audio';
import { Said } from '../../common/said';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import type { AudioApi } from '../../workers/audio-api';
import { audioWorker } from '../../workers/audio-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';

/** A recording that was listened to. */
export interface Heard {
  readonly name: string;
  readonly length: number;
  readonly hits: readonly Hit[];
  /** So many bars it is to be. */
  readonly bars: number;
}

/** Sound files are decoded at this rate, in Hz. */
const RATE = 44_100;
/** Longer and larger ones are not taken: they would not fit into memory. */
const LONGEST_SECONDS = 600;
const MOST_BYTES = 200e6;
const MOST_BARS = 512;

/** Brings audio files in: their hits become a track, to be measured, lifted and lined up with like any other. */
@Injectable()
export class AudioImport {
  private readonly store = inject(Store);
  private readonly said = inject(Said);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly link = new WorkerLink<AudioApi>(audioWorker);
  private asked: AbortController | null = null;

  readonly heard = signal<Heard | null>(null);
  /** Share that is done; null while nothing is listened to. */
  readonly progress = signal<number | null>(null);

  async open(): Promise<void> {
    const file = await fileOpen({
      description: 'Audio files',
      extensions: ['.wav', '.mp3', '.ogg', '.flac', '.m4a'],
      mimeTypes: ['audio/*'],
    }).catch(() => null);
    if (file) await this.listen(file);
  }

  cancel(): void {
    this.asked?.abort();
  }

  leave(): void {
    this.heard.set(null);
  }

  setBars(bars: number): void {
    this.heard.update((h) => h && { ...h, bars: Math.max(1, Math.min(MOST_BARS, bars)) });
  }

  /** Puts the hits into the song: one step. */
  add(): void {
    const song = this.song();
    const heard = this.heard();
    if (!song || !heard) return;
    const edit = referenceEdit(song, heard.name, heard.hits, heard.length, heard.bars);
    if (!edit) return;
    this.store.dispatch(DeskActions.edit({ edit }));
    const track = this.song()?.tracks.at(-1);
    if (track) this.store.dispatch(DeskActions.selectTrack({ trackId: track.id }));
    this.heard.set(null);
  }

  private async listen(file: File): Promise<void> {
    const song = this.song();
    if (!song) return;
    if (file.size > MOST_BYTES) {
      this.said.say(`${file.name} is larger than 200 MB. Cut out the part that you want, and bring that in.`);
      return;
    }
    const asked = new AbortController();
    this.asked = asked;
    this.progress.set(0);
    try {
      const samples = await decoded(file);
      if (samples.length / RATE > LONGEST_SECONDS) {
        this.said.say(`${file.name} is longer than ten minutes. Cut out the part that you want, and bring that in.`);
        return;
      }
      const hits = await this.link.ask((api, told) => api.hits(samples, RATE, told), {
        signal: asked.signal,
        told: (share) => this.progress.set(share),
      });
      if (hits.length === 0) {
        this.said.say(`Nothing is struck in ${file.name}. Bring in a recording with hits, such as a drum loop.`);
        return;
      }
      const length = (samples.length * 1000) / RATE;
      const name = file.name.replace(/\.[^.]+$/, '').slice(0, 200) || 'Audio';
      this.heard.set({ name, length, hits, bars: barsOf(length, song) });
    } catch (error) {
      if (error instanceof Cancelled) return;
      this.said.say(`${file.name} is no sound file that this browser knows. Open a WAV, MP3, OGG or FLAC file.`);
    } finally {
      this.progress.set(null);
    }
  }
}

/** All channels of a sound file together. */
async function decoded(file: File): Promise<Float32Array> {
  const context = new OfflineAudioContext(1, 1, RATE);
  const buffer = await context.decodeAudioData(await file.arrayBuffer());
  const samples = new Float32Array(buffer.length);
  for (let c = 0; c < buffer.numberOfChannels; c++) {
    const channel = buffer.getChannelData(c);
    for (let i = 0; i < samples.length; i++) samples[i] += channel[i] / buffer.numberOfChannels;
  }
  return samples;
}
