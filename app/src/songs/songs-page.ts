import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { toSignal } from '@angular/core/rxjs-interop';
import { MatMenuModule } from '@angular/material/menu';
import { Router, RouterLink } from '@angular/router';
import { from } from 'rxjs';
import { Beginning } from '../common/beginning';
import { ago, minutes } from '../common/format';
import { Icon } from '../common/icon';
import { MidiFiles } from '../common/midi-files';
import { Theme } from '../common/theme';
import { LibraryFoot } from '../library/library-foot';
import type { SongInfo } from '../storage/database';
import { SongsError, SongStore, type StoredSong } from '../storage/song-store';
import { PickOne } from '../common/pick-one';
import { Importer } from './importer';
import { NewSong, type Wanted } from './new-song';
import { SongGlance } from './song-glance';

/** From so many songs on they can be searched and put in order. */
const MANY = 7;

type Order = 'changed' | 'name' | 'notes';

/** The home page: the songs that this browser keeps. */
@Component({
  selector: 'es-songs-page',
  imports: [RouterLink, MatMenuModule, Icon, LibraryFoot, NewSong, PickOne, SongGlance],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './songs-page.html',
  styleUrls: ['../common/page.scss', './songs-page.scss'],
})
export class SongsPage {
  private readonly store = inject(SongStore);
  private readonly router = inject(Router);
  private readonly beginning = inject(Beginning);
  private readonly midi = inject(MidiFiles);
  protected readonly importer = inject(Importer);
  protected readonly theme = inject(Theme);
  protected readonly songs = toSignal(from(this.store.list$));
  /** The song whose name is being written. */
  protected readonly renaming = signal<string | null>(null);
  /** What was deleted since the page was opened, each of which can be brought back. */
  protected readonly deleted = signal<readonly StoredSong[]>([]);
  protected readonly problem = signal('');
  /** Whether a new song is being described. */
  protected readonly creating = signal(false);
  private making = false;
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

  protected setOrder(order: string): void {
    this.order.set(order as Order);
  }

  /** A name that no song has yet. */
  protected readonly freeName = computed(() => {
    const names = new Set((this.songs() ?? []).map((s) => s.name));
    let name = 'New song';
    for (let n = 2; names.has(name); n++) name = `New song ${n}`;
    return name;
  });

  /** Once, however often or long the key is pressed. */
  protected async create({ song, begins }: Wanted): Promise<void> {
    if (this.making) return;
    this.making = true;
    await this.act(async () => {
      const id = await this.store.add(song);
      if (begins) this.beginning.set(id, begins);
      await this.router.navigate(['/song', id]);
    });
    this.making = false;
  }

  protected async choose(): Promise<void> {
    const files = await this.midi.choose({ songs: true });
    if (files.length > 0) await this.importer.files(files);
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
}

/** What had the focus is gone: it goes to what is near. */
function focusOn(selector: string, afterMs = 0): void {
  setTimeout(() => document.querySelector<HTMLElement>(selector)?.focus(), afterMs);
}
