import { inject, Injectable, signal, type OnDestroy } from '@angular/core';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { Player } from '../sound/player';
import { DeskActions, type Compare } from '../state/desk.feature';
import { Batch, type Row } from './batch';

/** Under this name a song is only listened to: nothing of it is kept. */
const NOT_KEPT = 'listening';

/** Plays a file of the table as played or corrected, by the same player as the desk. */
@Injectable()
export class Hearing implements OnDestroy {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly batch = inject(Batch);
  /** What sounds, or is being made ready; null for nothing. */
  readonly what = signal<{ readonly id: number; readonly side: Compare } | null>(null);
  private open: Row | null = null;

  /** Plays a file, or stops it; the other side goes on where this one is. */
  async toggle(row: Row, side: Compare): Promise<void> {
    const now = this.what();
    if (now?.id === row.id && now.side === side) {
      this.stop();
      return;
    }
    this.what.set({ id: row.id, side });
    if (this.open !== row) {
      this.player.reset();
      this.open = null;
      const song = await this.batch.song(row);
      // Something else was pressed meanwhile.
      if (this.what()?.id !== row.id) return;
      if (!song) {
        this.what.set(null);
        return;
      }
      this.open = row;
      this.store.dispatch(DeskActions.opened({ songId: NOT_KEPT, history: startHistory(song), role: 'reader' }));
    }
    this.store.dispatch(DeskActions.compare({ which: this.what()?.side ?? side }));
    if (!this.player.playing()) await this.player.play();
  }

  stop(): void {
    this.what.set(null);
    if (this.player.playing()) this.player.stop();
    this.player.position.set(0);
  }

  ngOnDestroy(): void {
    this.player.reset();
    this.store.dispatch(DeskActions.compare({ which: 'corrected' }));
    this.store.dispatch(DeskActions.close());
  }
}
