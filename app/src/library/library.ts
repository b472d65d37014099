import { inject, Injectable, signal } from '@angular/core';
import { fileOpen } from 'browser-fs-access';
import { isClosedWindow } from '../common/closed-window';
import { countedFirst } from '../common/format';
import { Saving } from '../common/saving';
import { BackupError, BackupIn, broughtWords } from './backup-in';
import { BackupOut } from './backup-out';
import { StorageRoom } from '../storage/room';

/** The browser's window for saving, where it has one. */
interface WithWindow {
  showSaveFilePicker?(options: object): Promise<FileSystemFileHandle>;
}

const NAME = 'early-sparrow-backup';

/** What can be done here, and what is said where it fails. */
const BACKING_UP = {
  what: 'Backing up',
  failed: 'The backup could not be written.',
  stays: 'all that is kept here is as it was.',
};
const BRINGING_BACK = {
  what: 'Bringing back',
  failed: 'It could not be finished.',
  stays: 'what was brought back stays.',
};
type Work = typeof BACKING_UP;

/** Backs up everything that this browser keeps, and brings it back. */
@Injectable({ providedIn: 'root' })
export class Library {
  private readonly writer = inject(BackupOut);
  private readonly reader = inject(BackupIn);
  private readonly saving = inject(Saving);
  private readonly room = inject(StorageRoom);
  private work: AbortController | null = null;
  /** How far it is; null while nothing is done. */
  readonly progress = signal<{ readonly what: string; readonly done: number; readonly all: number } | null>(null);
  /** What became of the last one, in a sentence. */
  readonly said = signal('');

  /** What an earlier visit left goes before anything new is written in its place. */
  private readonly cleared = clearOwn().catch(() => undefined);

  cancel(): void {
    this.work?.abort();
  }

  async backUp(): Promise<void> {
    const name = `Early Sparrow backup ${new Date().toISOString().slice(0, 10)}.zip`;
    await this.doing(BACKING_UP, async (told, signal) => {
      await this.cleared;
      const place = await placeFor(name);
      const { songs, damaged } = await this.writer.write(await place.file.createWritable(), told, signal);
      const left = damaged > 0 ? ` ${countedFirst(damaged, 'song')} cannot be read and went along as kept.` : '';
      // If saving failed, the user has been told already.
      if (!place.chosen && (await this.saving.save(await place.file.getFile(), name)) === false) return '';
      return `${countedFirst(songs, 'song')} with all that belongs to ${songs === 1 ? 'it' : 'them'} ${songs === 1 ? 'is' : 'are'} in “${place.chosen ? place.file.name : name}”.${left}`;
    });
  }

  async bringBack(): Promise<void> {
    await this.doing(BRINGING_BACK, async (told, signal) => {
      const file = await fileOpen({ extensions: ['.zip'], mimeTypes: ['application/zip'], description: 'Backups' });
      const lack = await this.room.lack(file.size);
      if (lack) throw new BackupError(lack);
      return broughtWords(await this.reader.read(file, told, signal));
    });
  }

  private async doing(
    { what, ...words }: Work,
    act: (told: (done: number, all: number) => void, signal: AbortSignal) => Promise<string>,
  ): Promise<void> {
    if (this.work) return;
    this.work = new AbortController();
    const { signal } = this.work;
    this.said.set('');
    try {
      this.said.set(await act((done, all) => this.progress.set({ what, done, all }), signal));
    } catch (error) {
      const closed = isClosedWindow(error) && !signal.aborted;
      if (!closed) this.said.set(signal.aborted ? `${what} was stopped.` : faultWords(error, words));
    } finally {
      this.work = null;
      this.progress.set(null);
      await this.room.measure();
    }
  }
}

/** Where a backup is written: where the user chooses, else on the browser's own disk, from where it is downloaded. */
async function placeFor(name: string): Promise<{ file: FileSystemFileHandle; chosen: boolean }> {
  const { showSaveFilePicker } = window as WithWindow;
  if (showSaveFilePicker) {
    const types = [{ description: 'Backup', accept: { 'application/zip': ['.zip' as const] } }];
    return { file: await showSaveFilePicker({ suggestedName: name, types }), chosen: true };
  }
  const own = await navigator.storage.getDirectory();
  // It may be downloaded for as long as this page is there.
  await new Promise<void>((held) => {
    void navigator.locks.request(NAME, { mode: 'shared' }, () => {
      held();
      return new Promise(() => undefined);
    });
  });
  return { file: await own.getFileHandle(NAME, { create: true }), chosen: false };
}

/** Clears the room of a backup that was downloaded, unless another tab may still be at it. */
async function clearOwn(): Promise<void> {
  await navigator.locks.request(NAME, { ifAvailable: true }, async (lock) => {
    if (lock) await (await navigator.storage.getDirectory()).removeEntry(NAME);
  });
}

function faultWords(error: unknown, { failed, stays }: Omit<Work, 'what'>): string {
  if (error instanceof BackupError) return error.message;
  if (error instanceof DOMException && error.name === 'QuotaExceededError') {
    return `There is no room for all of it. Free some space and try again; ${stays}`;
  }
  return `${failed} Try again; ${stays}`;
}
