import { computed, inject, Injectable, signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { DeskActions, deskFeature } from '../../state/desk.feature';

/** The parts that are chosen: they are arranged together, over tracks. The current one is always among them. */
@Injectable()
export class ChosenParts {
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  private readonly wanted = signal<readonly string[]>([]);

  /** Their ids, as far as the song has them. */
  readonly ids = computed((): readonly string[] => {
    const current = this.part()?.id;
    const wanted = this.wanted();
    if (current === undefined) return [];
    if (!wanted.includes(current)) return [current];
    const there = new Set(this.song()?.tracks.flatMap((t) => t.parts.map((p) => p.id)));
    return wanted.filter((id) => there.has(id));
  });

  /** Chooses a part alone; it becomes the current one. */
  select(trackId: string, partId: string): void {
    this.wanted.set([partId]);
    if (partId !== this.part()?.id) this.store.dispatch(DeskActions.selectTrack({ trackId, partId }));
  }

  /** Chooses nothing but the current part: another track was chosen, or the same one alone. */
  alone(): void {
    this.wanted.set([]);
  }

  /** Adds a part, or takes it out. The last one stays. */
  toggle(trackId: string, partId: string): void {
    const ids = this.ids();
    if (!ids.includes(partId)) this.wanted.set([...ids, partId]);
    else if (ids.length > 1) this.set(ids.filter((id) => id !== partId));
    else this.select(trackId, partId);
  }

  /** Chooses several; the first becomes the current one unless the current one is among them. */
  set(ids: readonly string[]): void {
    this.wanted.set(ids);
    const current = this.part()?.id;
    if (ids.length === 0 || (current !== undefined && ids.includes(current))) return;
    const track = this.song()?.tracks.find((t) => t.parts.some((p) => p.id === ids[0]));
    if (track) this.store.dispatch(DeskActions.selectTrack({ trackId: track.id, partId: ids[0] }));
  }
}
