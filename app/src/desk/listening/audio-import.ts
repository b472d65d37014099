import { computed, inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import { fileOpen } from 'browser-fs-access';
import {
  barsOf,
  soundFileEdit,
  speedOf,
  tempoFor,
  type Fitting,
  type Hit,
  type Placing,
} from '@early-sparrow/core/audio';
import { noteCount, type Song } from '@early-sparrow/core/song';
import { AUDIO_ENDINGS } from '../../common/file-kinds';
import { Said } from '../../common/said';
import { AudioFiles, type OpenedFile } from '../../sound/audio-files';
import { decode, sidesOf } from '../../sound/decode';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { idOf } from '../../storage/file-store';
import { StorageRoom } from '../../storage/room';
import type { AudioApi } from '../../workers/audio-api';
import { audioWorker } from '../../workers/audio-worker';
import { Cancelled, WorkerLink } from '../../workers/worker-link';

/** A sound file that was listened to, and where it is to lie. */
export interface Heard extends Placing {
  readonly opened: OpenedFile;
  readonly name: string;
  readonly ms: number;
  readonly hits: readonly Hit[];
}

/** Longer and larger files are not taken: they would not fit into memory. */
const LONGEST_MS = 600_000;
const MOST_BYTES = 200e6;
const MOST_BARS = 512;
/** Tempi that a song can be given, in quarter notes a minute. */
const TEMPI = { least: 20, most: 400 };
/** A file that would run within this of its own speed is a loop that was made for the song's tempo. */
const NEAR = 0.1;

/** What the file window offers. */
export const AUDIO_FILES = {
  description: 'Audio files',
  extensions: AUDIO_ENDINGS,
  mimeTypes: ['audio/*'],
};

/** Brings sound files in: they play along, and their hits can be measured, lifted and lined up with like any track. */
@Injectable()
export class AudioImport implements OnDestroy {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly files = inject(AudioFiles);
  private readonly room = inject(StorageRoom);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly link = new WorkerLink<AudioApi>(audioWorker);
  private asked: AbortController | null = null;

  readonly heard = signal<Heard | null>(null);
  /** Share that is done; null while nothing is listened to. */
  readonly progress = signal<number | null>(null);
  /** Whether a file is being written into the browser's store. */
  readonly keeping = signal(false);

  /** What the bars mean: the speed at which the file would run, and the tempo that the song would get. */
  readonly meaning = computed(() => {
    const heard = this.heard();
    const song = this.song();
    if (!heard || !song) return null;
    return { speed: speedOf(heard.ms, song, heard), bpm: tempoFor(heard.ms, song, heard) };
  });

  async open(): Promise<void> {
    const file = await fileOpen(AUDIO_FILES).catch(() => null);
    if (file) await this.listen(file);
  }

  ngOnDestroy(): void {
    this.link.end();
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

  setBar(bar: number): void {
    this.heard.update((h) => h && { ...h, bar: Math.max(1, Math.min(MOST_BARS, bar)) });
  }

  setFitting(fitting: Fitting): void {
    this.heard.update((h) => h && { ...h, fitting });
  }

  /** Puts the file into the song: one step. */
  async add(): Promise<void> {
    const heard = this.heard();
    const id = this.songId();
    const bpm = this.meaning()?.bpm ?? 0;
    if (id === null || !heard) return;
    if (heard.fitting === 'set' && (bpm < TEMPI.least || bpm > TEMPI.most)) {
      this.said.say(`A tempo of ${bpm.toFixed(1)} BPM cannot be set. Choose another number of bars.`);
      return;
    }
    // Once, however often it is pressed.
    this.heard.set(null);
    const lack = await this.room.lack(heard.opened.bytes.byteLength);
    if (lack) {
      this.heard.set(heard);
      this.said.say(`The sound file was not added. ${lack}`);
      return;
    }
    // Its sound is kept before anything tells of it.
    this.keeping.set(true);
    const kept = await this.files.keep(heard.opened).finally(() => this.keeping.set(false));
    const song = this.song();
    // Another song may be open by now.
    if (!song || this.songId() !== id) return;
    const edit = soundFileEdit(song, { ...heard, file: heard.opened.id }, heard);
    const before = new Set(song.tracks.map((t) => t.id));
    if (this.changes.make(edit, 'bring in')) return;
    const track = this.song()?.tracks.find((t) => !before.has(t.id));
    if (track) this.store.dispatch(DeskActions.selectTrack({ trackId: track.id }));
    if (!kept)
      this.said.say(`${heard.name} plays along until you close this page: the browser has no room to save it.`);
  }

  /** Listens to a file, up to where one says how it is to lie in the song. */
  async listen(file: File): Promise<void> {
    if (file.size > MOST_BYTES) {
      this.said.say(`${file.name} is larger than 200 MB. Cut out the part you need and import that.`);
      return;
    }
    const asked = new AbortController();
    this.asked = asked;
    this.progress.set(0);
    try {
      const bytes = await file.arrayBuffer();
      const sound = await decode(bytes);
      const ms = (sound.left.length * 1000) / sound.rate;
      if (ms > LONGEST_MS) {
        this.said.say(`${file.name} is longer than ten minutes. Cut out the part you need and import that.`);
        return;
      }
      const { signal } = asked;
      const told = (share: number) => this.progress.set(share);
      const hits = await this.link.ask((api, tell) => api.hits(sidesOf(sound), sound.rate, tell), { signal, told });
      // The desk shows tracks that have notes: without a hit there would be nothing to take in hand.
      if (hits.length === 0) {
        this.said.say(`No hits were found in ${file.name}. Import a recording with clear hits, such as a drum loop.`);
        return;
      }
      const peaks = await this.files.draw(sound);
      if (signal.aborted) return;
      const song = this.song();
      if (!song) return;
      const name = file.name.replace(/\.[^.]+$/, '').slice(0, 200) || 'Audio';
      const opened = { id: await idOf(bytes), name: file.name, bytes, sound, peaks };
      this.heard.set({ opened, name, ms, hits, ...placingFor(ms, song) });
    } catch (error) {
      if (error instanceof Cancelled) return;
      this.said.say(`${file.name} is not a sound file that this browser can read. Open a WAV, MP3, OGG or FLAC file.`);
    } finally {
      this.progress.set(null);
    }
  }
}

/** A loop that was made for the song's tempo fits it; one that comes first gives its own; others keep theirs. */
function placingFor(ms: number, song: Song): Placing {
  const bars = barsOf(ms, song);
  const near = Math.abs(speedOf(ms, song, { bar: 1, bars }) - 1) < NEAR;
  const empty = song.tracks.every((t) => noteCount(t) === 0);
  return { bar: 1, bars, fitting: empty ? 'set' : near ? 'fit' : 'own' };
}
