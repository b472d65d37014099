import { effect, inject, Injectable, signal, type OnDestroy } from '@angular/core';
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
  private played = false;

  constructor() {
    effect(() => {
      const playing = this.player.playing();
      // It came to its end, or the browser stopped it.
      if (this.played && !playing && this.open) this.what.set(null);
      this.played = playing;
    });
  }

  /** Plays a file, or stops it; the other side goes on where this one is. Gives false where its song cannot be made. */
  async toggle(row: Row, side: Compare): Promise<boolean> {
    const before = this.what();
    if (before?.id === row.id && before.side === side) {
      this.stop();
      return true;
    }
    const wanted = { id: row.id, side };
    this.what.set(wanted);
    if (this.open !== row) {
      this.player.reset();
      this.open = null;
      const song = await this.batch.song(row);
      // Something else was pressed meanwhile, or the page was left: another song may be open by now.
      if (this.what() !== wanted) return true;
      if (!song) {
        this.what.set(null);
        return false;
      }
      this.open = row;
      this.store.dispatch(DeskActions.opened({ songId: NOT_KEPT, history: startHistory(song), role: 'reader' }));
    }
    this.store.dispatch(DeskActions.compare({ which: side }));
    if (this.player.playing()) return true;
    await this.player.play();
    if (!this.player.playing() && this.what() === wanted) this.what.set(null);
    return true;
  }

  stop(): void {
    this.what.set(null);
    this.player.pause();
    this.player.position.set(0);
  }

  ngOnDestroy(): void {
    this.what.set(null);
    this.player.reset();
    this.store.dispatch(DeskActions.compare({ which: 'corrected' }));
    this.store.dispatch(DeskActions.close());
  }
}
