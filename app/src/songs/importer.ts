import { inject, Injectable, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Router } from '@angular/router';
import { MAX_BYTES, type ImportedSong, type SmfErrorCode } from '@early-sparrow/core/smf';
import { SongStore } from '../storage/song-store';
import type { ImportAnswer, ImportApi } from '../workers/import-api';
import { importWorker } from '../workers/import-worker';
import { WorkerLink } from '../workers/worker-link';
import type { Dropped } from './dropped';

/** What to do about a file that cannot be opened. */
const ADVICE: Record<SmfErrorCode, string> = {
  empty: 'It looks cut off. Export it again from the program that made it.',
  unreasonable: 'It may be damaged, or not music at all. Export it again from the program that made it.',
  'too-large': 'Split the piece, or export only the tracks that you want to correct.',
  'not-midi': 'Choose a file that ends in .mid, exported as a standard MIDI file.',
  'bad-header': 'Its start is damaged. Export it again from the program that made it.',
  'no-tracks': 'It has no music in it. Export it again with its tracks.',
};

/** What became of one file: opened, perhaps with a word about it, or the reason why not. */
type Outcome = { readonly id: string; readonly notice: string | null } | { readonly id: null; readonly notice: string };

/** Opens MIDI files: reads them in a worker, keeps them, goes to the last one, and tells of all in one message. */
@Injectable({ providedIn: 'root' })
export class Importer {
  private readonly songs = inject(SongStore);
  private readonly router = inject(Router);
  private readonly snack = inject(MatSnackBar);

  /** Name of the file that is being read; null when none is. */
  readonly busy = signal<string | null>(null);

  async files(files: readonly File[]): Promise<void> {
    await this.open({ files, emptyFolders: [] });
  }

  /** Opens what was dropped; folders count for the MIDI files in them. */
  async open({ files, emptyFolders }: Dropped): Promise<void> {
    const outcomes: Outcome[] = emptyFolders.map((name) => ({
      id: null,
      notice: `“${name}” is a folder without MIDI files. Choose files that end in .mid.`,
    }));
    for (const file of files) outcomes.push(await this.file(file));
    const opened = outcomes.filter((o) => o.id !== null);
    const notices = outcomes.flatMap((o) => (o.notice === null ? [] : [o.notice]));
    const last = opened.at(-1)?.id;
    if (last) await this.router.navigate(['/song', last]);
    if (outcomes.length > 1) this.say([`${opened.length} of ${outcomes.length} were opened.`, ...notices].join('\n'));
    else if (notices.length > 0) this.say(notices[0]);
  }

  /** Keeps the demo song and opens it. */
  async demo(): Promise<void> {
    const response = await fetch('demo/night-ferry.mid').catch(() => null);
    if (!response?.ok) {
      this.say('The demo song could not be loaded. Is the program still running? Then reload the page.');
      return;
    }
    await this.files([new File([await response.blob()], 'Night Ferry.mid')]);
  }

  private async file(file: File): Promise<Outcome> {
    const failed = (text: string): Outcome => ({ id: null, notice: `“${file.name}” was not opened. ${text}` });
    this.busy.set(file.name);
    try {
      // What is over the limit is refused without being read.
      const read = await file
        .slice(0, MAX_BYTES + 1)
        .arrayBuffer()
        .catch(() => null);
      if (!read)
        return failed('The file could not be read: it may have been moved, or it is a folder. Choose it again.');
      const answer = await this.read(new Uint8Array(read), file.name.replace(/\.[^.]*$/, '')).catch(() => null);
      if (!answer) return failed('The program failed while reading it: please tell us about this file.');
      if (!answer.ok) return failed(`${answer.detail} ${ADVICE[answer.code]}`);
      if (!answer.song.tracks.some((t) => t.parts.length > 0)) {
        return failed('It has no notes in it. Choose a file with a recorded performance.');
      }
      const id = await this.songs.add(answer.song).catch(() => null);
      if (id === null) return failed('The browser refused to save it. Free some space and try again.');
      return { id, notice: noticesOf(answer, file.name) };
    } finally {
      this.busy.set(null);
    }
  }

  private async read(bytes: Uint8Array, name: string): Promise<ImportAnswer> {
    // A worker for each file: what it took of memory goes with it.
    const link = new WorkerLink<ImportApi>(importWorker);
    try {
      return await link.ask((api): Promise<ImportAnswer> => api.read(bytes, name));
    } finally {
      link.end();
    }
  }

  private say(text: string): void {
    this.snack.open(text, 'Close', { duration: 20_000, politeness: 'assertive', panelClass: 'lines' });
  }
}

function noticesOf({ notices }: ImportedSong, fileName: string): string | null {
  if (notices.length === 0) return null;
  const more = notices.length > 1 ? ` (and ${notices.length - 1} more)` : '';
  return `“${fileName}” was opened. ${notices[0].text}${more}`;
}
