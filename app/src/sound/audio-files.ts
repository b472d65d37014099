import { computed, effect, inject, Injectable, signal, untracked } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Peaks } from '@early-sparrow/core/audio';
import type { SoundFile } from '@early-sparrow/core/sound';
import { deskFeature } from '../state/desk.feature';
import { FileStore, idOf } from '../storage/file-store';
import type { AudioApi } from '../workers/audio-api';
import { audioWorker } from '../workers/audio-worker';
import { WorkerLink } from '../workers/worker-link';
import { decode, sidesOf } from './decode';
import type { SoundDevice } from './sound-device';

/** A sound file that was just opened: its bytes, its sound, and how it is drawn. */
export interface OpenedFile {
  readonly id: string;
  readonly name: string;
  readonly bytes: ArrayBuffer;
  readonly sound: SoundFile;
  readonly peaks: Peaks;
}

/** A worker that draws nothing any more is ended after so many ms. */
const IDLE_MS = 10_000;

/** The sound files that the open song plays along: fetched, decoded, drawn, and brought to the engine. */
@Injectable({ providedIn: 'root' })
export class AudioFiles {
  private readonly store = inject(Store);
  private readonly files = inject(FileStore);
  private readonly link = new WorkerLink<AudioApi>(audioWorker, IDLE_MS);
  private readonly songId = this.store.selectSignal(deskFeature.selectSongId);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly device = signal<SoundDevice | null>(null);
  /** Sounds on their way to the engine, which has them then. */
  private readonly waiting = signal<ReadonlyMap<string, SoundFile>>(new Map());
  /** What the engine has, or is being made ready for it. */
  private readonly known = new Set<string>();
  /** Bytes that the browser would not keep: they last as long as the page. */
  private readonly unkept = new Map<string, ArrayBuffer>();

  /** How the files look that are there. */
  readonly peaks = signal<ReadonlyMap<string, Peaks>>(new Map());
  /** Files that this browser does not have. */
  readonly missing = signal<ReadonlySet<string>>(new Set());

  private readonly wanted = computed(
    () => {
      const parts = this.song()?.tracks.flatMap((t) => t.parts) ?? [];
      return [...new Set(parts.flatMap((p) => p.audio?.file ?? []))];
    },
    { equal: (a, b) => a.join() === b.join() },
  );

  constructor() {
    effect(() => {
      const song = this.songId();
      const wanted = this.wanted();
      untracked(() => {
        for (const id of this.known) if (!wanted.includes(id)) this.forget(id);
        for (const id of wanted) if (song && !this.known.has(id)) void this.fetch(song, id);
      });
    });
    effect(() => {
      const device = this.device();
      const waiting = this.waiting();
      if (!device || waiting.size === 0) return;
      for (const [id, file] of waiting) {
        const buffers = sidesOf(file).map((side) => side.buffer);
        device.say({ say: 'file', id, file }, buffers);
      }
      untracked(() => this.waiting.set(new Map()));
    });
  }

  use(device: SoundDevice): void {
    this.device.set(device);
  }

  /** Keeps a file with the open song. @returns whether the browser had room; else it lasts as long as the page */
  async keep({ id, name, bytes, sound, peaks }: OpenedFile): Promise<boolean> {
    const song = this.songId();
    this.take(id, sound, peaks);
    try {
      if (song) await this.files.keep({ song, file: id, name, bytes });
      return true;
    } catch {
      this.unkept.set(id, bytes);
      return false;
    }
  }

  /** A file that was missing, found by hand. @returns what is wrong with it, else null */
  async bringBack(id: string, file: File): Promise<string | null> {
    try {
      const bytes = await file.arrayBuffer();
      if ((await idOf(bytes)) !== id)
        return `${file.name} is not the file that was imported. Find that one, or import this one as a new track.`;
      const sound = await decode(bytes);
      await this.keep({ id, name: file.name, bytes, sound, peaks: await this.draw(sound) });
      return null;
    } catch {
      return `${file.name} could not be read. Try again.`;
    }
  }

  /** The sound of files, decoded anew: what was decoded before is the engine's. Those that are missing are left out. */
  async sounds(ids: readonly string[]): Promise<ReadonlyMap<string, SoundFile>> {
    const sounds = new Map<string, SoundFile>();
    for (const id of ids) {
      const bytes = await this.bytesOf(this.songId(), id);
      if (bytes) sounds.set(id, await decode(bytes));
    }
    return sounds;
  }

  private async fetch(song: string, id: string): Promise<void> {
    this.known.add(id);
    try {
      const bytes = await this.bytesOf(song, id);
      if (!bytes) throw new Error('It is not there.');
      const sound = await decode(bytes);
      const peaks = await this.draw(sound);
      if (this.known.has(id)) this.take(id, sound, peaks);
    } catch {
      if (this.known.delete(id)) this.missing.update((m) => new Set([...m, id]));
    }
  }

  private async bytesOf(song: string | null, id: string): Promise<ArrayBuffer | undefined> {
    const kept = song ? await this.files.read(song, id) : undefined;
    return kept ?? this.unkept.get(id);
  }

  /** How a sound looks. */
  draw(sound: SoundFile): Promise<Peaks> {
    return this.link.ask((api) => api.peaks(sidesOf(sound), sound.rate));
  }

  private take(id: string, sound: SoundFile, peaks: Peaks): void {
    this.known.add(id);
    this.missing.update((m) => new Set([...m].filter((other) => other !== id)));
    this.peaks.update((all) => new Map(all).set(id, peaks));
    this.waiting.update((all) => new Map(all).set(id, sound));
  }

  private forget(id: string): void {
    this.known.delete(id);
    this.device()?.say({ say: 'file', id, file: null });
    const without = <T>(all: ReadonlyMap<string, T>) => new Map([...all].filter(([other]) => other !== id));
    this.peaks.update(without);
    this.waiting.update(without);
  }
}
