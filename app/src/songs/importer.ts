import { inject, Injectable } from '@angular/core';
import { MatSnackBar } from '@angular/material/snack-bar';
import { Router } from '@angular/router';
import { MidiFiles } from '../common/midi-files';
import { SongStore } from '../storage/song-store';
import type { Dropped } from './dropped';

/** What became of one file: opened, perhaps with a word about it, or the reason why not. */
type Outcome = { readonly id: string; readonly notice: string | null } | { readonly id: null; readonly notice: string };

/** Opens MIDI files: reads them in a worker, keeps them, goes to the last one, and tells of all in one message. */
@Injectable({ providedIn: 'root' })
export class Importer {
  private readonly songs = inject(SongStore);
  private readonly router = inject(Router);
  private readonly snack = inject(MatSnackBar);
  private readonly midi = inject(MidiFiles);

  /** Name of the file that is being read; null when none is. */
  readonly busy = this.midi.busy;

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
    const read = await this.midi.read(file);
    if (!read.song) return { id: null, notice: read.notice };
    const id = await this.songs.add(read.song).catch(() => null);
    if (id !== null) return { id, notice: read.notice };
    const why = 'The browser refused to save it. Free some space and try again.';
    return { id: null, notice: `“${file.name}” was not opened. ${why}` };
  }

  private say(text: string): void {
    this.snack.open(text, 'Close', { duration: 20_000, politeness: 'assertive', panelClass: 'lines' });
  }
}
