import { inject, Injectable, signal } from '@angular/core';
import type { BankFault, BankSound } from '@early-sparrow/core/bank';
import type { Sound } from '@early-sparrow/core/sound';
import { SongStore } from '../storage/song-store';
import type { BankApi } from '../workers/bank-api';
import { bankWorker } from '../workers/bank-worker';
import { WorkerLink } from '../workers/worker-link';

/** The bank that comes with the application. */
const OWN = 'voices/fluid-r3-mono.sf3';

/** What a person reads. */
const FAULTS: Readonly<Record<BankFault, string>> = {
  'too-large': 'is larger than 512 MB. Open a smaller bank.',
  'not-a-bank': 'is not a sound bank. Open a file that ends in .sf2 or .sf3.',
  damaged: 'is damaged or cut off. Download it again, or open another bank.',
  empty: 'has no sounds in it. Open another bank.',
};

/** The sounds that tracks are played with: a bank that is loaded when sound is first wanted. */
@Injectable({ providedIn: 'root' })
export class Bank {
  private readonly store = inject(SongStore);
  private readonly link = new WorkerLink<BankApi>(bankWorker);
  private loading: Promise<void> | null = null;
  private readonly extracted = new Map<string, Promise<ArrayBuffer | null>>();

  /** Share of the bank that is there while it loads, from 0 to 1; null before and after. */
  readonly progress = signal<number | null>(null);
  /** What can be chosen; empty until the bank is there. */
  readonly sounds = signal<readonly BankSound[]>([]);
  /** Name of the user's own bank; empty for the one that comes with the application. */
  readonly name = signal('');
  /** Whether the user's own bank is there after the page was closed, too. */
  readonly kept = signal(true);
  /** Why there are only the small voices. */
  readonly problem = signal('');

  /** Loads the bank, once. Without it the small voices play. */
  load(): Promise<void> {
    return (this.loading ??= this.loadKept());
  }

  /** One sound as a bank of its own; null where there is none. The bytes are the caller's. */
  async sound(sound: Sound): Promise<ArrayBuffer | null> {
    await this.load();
    if (this.sounds().length === 0) return null;
    const key = `${sound.drums} ${sound.program}`;
    let known = this.extracted.get(key);
    if (!known) this.extracted.set(key, (known = this.extract(sound)));
    return (await known)?.slice(0) ?? null;
  }

  /**
   * Takes the user's own bank into use.
   * @returns what is wrong with it, else null; the one in use stays then
   */
  async open(file: File): Promise<string | null> {
    // A bank of the user's own goes before one that still loads.
    await this.loading;
    this.progress.set(0);
    try {
      const bytes = await file.arrayBuffer();
      const found = await this.link.ask((api) => api.read(bytes));
      if (found.problem) return `${file.name} ${FAULTS[found.problem]}`;
      this.loading = Promise.resolve();
      this.use(found.sounds, file.name);
      await this.keep(file.name, bytes);
      return null;
    } catch {
      return `${file.name} could not be read. Open it again, or open another bank.`;
    } finally {
      this.progress.set(null);
    }
  }

  /** Back to the bank that comes with the application. */
  async openOwn(): Promise<void> {
    await this.store.banks.clear().catch(() => undefined);
    this.loading = null;
    await this.load();
  }

  /** The one bank of the user's own that is kept is the last. */
  private async keep(name: string, bytes: ArrayBuffer): Promise<void> {
    try {
      await this.store.banks.clear();
      await this.store.banks.put({ name, bytes });
      this.kept.set(true);
    } catch {
      this.kept.set(false);
    }
  }

  /** The user's own bank of last time, else the one that comes with the application. */
  private async loadKept(): Promise<void> {
    const own = await this.store.banks
      .toCollection()
      .first()
      .catch(() => undefined);
    if (!own) return this.loadOwn();
    this.progress.set(0);
    try {
      const found = await this.link.ask((api) => api.read(own.bytes));
      if (!found.problem) {
        this.use(found.sounds, own.name);
        return;
      }
    } catch {
      // As if it were not there.
    } finally {
      this.progress.set(null);
    }
    await this.loadOwn();
  }

  private use(sounds: readonly BankSound[], name: string): void {
    this.extracted.clear();
    this.name.set(name);
    this.problem.set('');
    this.sounds.set(sounds);
  }

  private async loadOwn(): Promise<void> {
    this.progress.set(0);
    try {
      const url = new URL(OWN, document.baseURI).href;
      const found = await this.link.ask((api, told) => api.load(url, told), {
        told: (share) => this.progress.set(share),
      });
      if (found.problem) this.fail('The sound bank is damaged. The built-in voices play instead.');
      else this.use(found.sounds, '');
    } catch {
      this.fail('The sound bank could not be loaded. The built-in voices play instead. Press Play to try again.');
    } finally {
      this.progress.set(null);
    }
  }

  private fail(problem: string): void {
    this.problem.set(problem);
    this.loading = null;
    this.sounds.set([]);
  }

  private async extract(sound: Sound): Promise<ArrayBuffer | null> {
    try {
      const { bytes, problem } = await this.link.ask((api) => api.extract(sound));
      if (!problem) return bytes;
    } catch {
      // The worker is gone: as if the sound were missing.
    }
    this.problem.set('A sound in the bank is damaged. A built-in voice plays instead.');
    return null;
  }
}
