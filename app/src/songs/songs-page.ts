import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatMenuModule } from '@angular/material/menu';
import { Router, RouterLink } from '@angular/router';
import { fileOpen } from 'browser-fs-access';
import { from } from 'rxjs';
import { newSong, newTrack } from '@early-sparrow/core/song';
import { ago, minutes } from '../common/format';
import { Icon } from '../common/icon';
import { Theme } from '../common/theme';
import type { SongInfo } from '../storage/database';
import { SongsError, SongStore, type StoredSong } from '../storage/song-store';
import { PickOne } from '../common/pick-one';
import { Importer } from './importer';
import { SongGlance } from './song-glance';

const VISITED = 'early-sparrow.visited';
/** From so many songs on they can be searched and put in order. */
const MANY = 7;

type Order = 'changed' | 'name' | 'notes';

/** The home page: the songs that this browser keeps. */
@Component({
  selector: 'es-songs-page',
  imports: [RouterLink, MatMenuModule, Icon, PickOne, SongGlance],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './songs-page.html',
  styleUrl: './songs-page.scss',
})
export class SongsPage {
  private readonly store = inject(SongStore);
  private readonly router = inject(Router);
  protected readonly importer = inject(Importer);
  protected readonly theme = inject(Theme);
  protected readonly songs = toSignal(from(this.store.list$));
  /** The song whose name is being written. */
  protected readonly renaming = signal<string | null>(null);
  /** What was deleted since the page was opened, each of which can be brought back. */
  protected readonly deleted = signal<readonly StoredSong[]>([]);
  protected readonly problem = signal('');
  protected readonly many = MANY;
  protected readonly search = signal('');
  protected readonly order = signal<Order>('changed');
  protected readonly orders = [
    { value: 'changed', text: 'last changed first' },
    { value: 'name', text: 'by name' },
    { value: 'notes', text: 'most notes first' },
  ];
  protected readonly ago = ago;
  protected readonly minutes = minutes;

  protected readonly shown = computed(() => {
    const words = this.search().toLowerCase().split(/\s+/).filter(Boolean);
    const found = (this.songs() ?? []).filter((s) => words.every((w) => s.name.toLowerCase().includes(w)));
    const order = this.order();
    // The list comes with the last changed first.
    if (order === 'changed') return found;
    return [...found].sort((a, b) => (order === 'name' ? a.name.localeCompare(b.name) : b.notes - a.notes));
  });

  constructor() {
    void this.firstVisit();
  }

  protected setOrder(order: string): void {
    this.order.set(order as Order);
  }

  /** A song with nothing in it but a track to draw into. */
  protected async create(): Promise<void> {
    const names = new Set((this.songs() ?? []).map((s) => s.name));
    let name = 'New song';
    for (let n = 2; names.has(name); n++) name = `New song ${n}`;
    const tracks = [newTrack('t0', 'Track 1')];
    await this.act(async () => {
      const id = await this.store.add({ ...newSong(name), tracks, nextId: 1 });
      await this.router.navigate(['/song', id]);
    });
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

  protected startRenaming(song: SongInfo): void {
    this.renaming.set(song.id);
    // The menu gives the focus back to its button first.
    setTimeout(() => document.querySelector<HTMLInputElement>('li input')?.select(), 50);
  }

  protected stopRenaming(song: SongInfo): void {
    this.renaming.set(null);
    focusOn(`#song-${CSS.escape(song.id)}`);
  }

  protected rename(song: SongInfo, name: string): void {
    if (this.renaming() !== song.id) return;
    this.stopRenaming(song);
    const to = name.trim().slice(0, 200);
    if (to && to !== song.name) void this.act(() => this.store.rename(song.id, to));
  }

  protected duplicate(song: SongInfo): void {
    void this.act(() => this.store.duplicate(song.id));
  }

  protected async remove(song: SongInfo): Promise<void> {
    await this.act(async () => {
      const removed = await this.store.remove(song.id);
      if (removed) this.deleted.update((list) => [...list, removed]);
    });
    focusOn('.deleted:last-of-type button', 50);
  }

  protected async restore(song: StoredSong): Promise<void> {
    await this.act(async () => {
      await this.store.restore(song);
      this.deleted.update((list) => list.filter((s) => s !== song));
    });
    focusOn(`#song-${CSS.escape(song.info.id)}`, 50);
  }

  private async act(act: () => Promise<void>): Promise<void> {
    try {
      await act();
      this.problem.set('');
    } catch (error) {
      const refused = 'The browser refused to save that. Free some space and try again. Nothing was changed.';
      this.problem.set(error instanceof SongsError ? error.message : refused);
    }
  }

  /** The first visit begins with the demo song. */
  private async firstVisit(): Promise<void> {
    if (localStorage.getItem(VISITED) || (await this.store.count()) > 0) return;
    localStorage.setItem(VISITED, 'yes');
    await this.importer.demo();
  }
}

/** What had the focus is gone: it goes to what is near. */
function focusOn(selector: string, afterMs = 0): void {
  setTimeout(() => document.querySelector<HTMLElement>(selector)?.focus(), afterMs);
}
