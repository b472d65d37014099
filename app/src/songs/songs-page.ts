import { ChangeDetectionStrategy, Component, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatMenuModule } from '@angular/material/menu';
import { MatSnackBar } from '@angular/material/snack-bar';
import { RouterLink } from '@angular/router';
import { fileOpen } from 'browser-fs-access';
import { from } from 'rxjs';
import { ago, minutes } from '../common/format';
import { Icon } from '../common/icon';
import { Theme } from '../common/theme';
import type { SongInfo } from '../storage/database';
import { SongStore } from '../storage/song-store';
import { Importer } from './importer';

const VISITED = 'early-sparrow.visited';

/** The home page: the songs that this browser keeps. */
@Component({
  selector: 'es-songs-page',
  imports: [RouterLink, MatMenuModule, Icon],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './songs-page.html',
  styleUrl: './songs-page.scss',
})
export class SongsPage {
  private readonly store = inject(SongStore);
  private readonly snack = inject(MatSnackBar);
  protected readonly importer = inject(Importer);
  protected readonly theme = inject(Theme);
  protected readonly songs = toSignal(from(this.store.list$));
  /** The song whose name is being written. */
  protected readonly renaming = signal<string | null>(null);
  protected readonly ago = ago;
  protected readonly minutes = minutes;

  constructor() {
    void this.firstVisit();
  }

  protected async choose(): Promise<void> {
    try {
      const files = await fileOpen({
        extensions: ['.mid', '.midi', '.rmi', '.smf'],
        mimeTypes: ['audio/midi'],
        description: 'Standard MIDI files',
        multiple: true,
      });
      await this.importer.files(files);
    } catch (error) {
      // Closing the file window without a choice is no error.
      if (!(error instanceof DOMException && error.name === 'AbortError')) throw error;
    }
  }

  protected rename(song: SongInfo, name: string): void {
    if (this.renaming() !== song.id) return;
    this.renaming.set(null);
    const to = name.trim().slice(0, 200);
    if (to && to !== song.name) void this.store.rename(song.id, to);
  }

  protected duplicate(song: SongInfo): void {
    void this.store.duplicate(song.id);
  }

  protected async remove(song: SongInfo): Promise<void> {
    const removed = await this.store.remove(song.id);
    if (!removed) return;
    this.snack
      .open(`“${song.name}” was deleted.`, 'Undo', { duration: 15_000 })
      .onAction()
      .subscribe(() => void this.store.restore(removed));
  }

  /** The first visit begins with the demo song. */
  private async firstVisit(): Promise<void> {
    if (localStorage.getItem(VISITED) || (await this.store.count()) > 0) return;
    localStorage.setItem(VISITED, 'yes');
    await this.importer.demo();
  }
}
