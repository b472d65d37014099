import { inject, Injectable, signal } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Router } from '@angular/router';
import { wrap } from 'comlink';
import type { ImportedSong, SmfErrorCode } from '@early-sparrow/core/smf';
import { SongStore } from '../storage/song-store';
import type { ImportApi } from '../workers/import-api';

/** What to do about a file that cannot be opened. */
const ADVICE: Record<SmfErrorCode, string> = {
  empty: 'It may not have been saved to the end; export it again where it was made.',
  'too-large': 'Split the piece, or export only the tracks that you want to correct.',
  'not-midi': 'Choose a file that ends in .mid, exported as a standard MIDI file.',
  'bad-header': 'It is damaged at its beginning; export it again where it was made.',
  'no-tracks': 'It holds no music; export it again with its tracks.',
};

/** Opens MIDI files: reads them in a worker, keeps them and goes to the last one. */
@Injectable({ providedIn: 'root' })
export class Importer {
  private readonly songs = inject(SongStore);
  private readonly router = inject(Router);
  private readonly snack = inject(MatSnackBar);

  /** Name of the file that is being read; null when none is. */
  readonly busy = signal<string | null>(null);

  async files(files: readonly File[]): Promise<void> {
    let last: string | null = null;
    for (const file of files) last = (await this.file(file)) ?? last;
    if (last) await this.router.navigate(['/song', last]);
  }

  /** Keeps the demo song and opens it. */
  async demo(): Promise<void> {
    const response = await fetch('demo/night-ferry.mid');
    await this.files([new File([await response.blob()], 'Night Ferry.mid')]);
  }

  private async file(file: File): Promise<string | null> {
    this.busy.set(file.name);
    const worker = new Worker(new URL('../workers/import.worker', import.meta.url), { type: 'module' });
    try {
      // What is over the limit is refused without being read.
      const bytes = new Uint8Array(await file.slice(0, 64 * 1024 * 1024 + 1).arrayBuffer());
      const answer = await wrap<ImportApi>(worker).read(bytes, file.name.replace(/\.[^.]*$/, ''));
      if (!answer.ok) {
        this.say(`“${file.name}” was not opened. ${answer.detail} ${ADVICE[answer.code]}`);
        return null;
      }
      return await this.keep(answer, file.name);
    } catch {
      this.say(`“${file.name}” could not be kept: the browser refused to store it. Free some space and try again.`);
      return null;
    } finally {
      worker.terminate();
      this.busy.set(null);
    }
  }

  private async keep({ song, notices }: ImportedSong, fileName: string): Promise<string | null> {
    if (!song.tracks.some((t) => t.parts.length > 0)) {
      this.say(`“${fileName}” was not opened. It holds no notes; choose a file with a recorded performance.`);
      return null;
    }
    const id = await this.songs.add(song);
    if (notices.length > 0) {
      const more = notices.length > 1 ? ` (and ${notices.length - 1} more)` : '';
      this.say(`“${fileName}” was opened. ${notices[0].text}${more}`);
    }
    return id;
  }

  private say(text: string): void {
    this.snack.open(text, 'Close', { duration: 20_000, politeness: 'assertive' });
  }
}
