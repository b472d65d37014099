import { computed, inject, Injectable, signal } from '@angular/core';
import { pictureOf, type Picture } from './picture';
import { Scenery } from './scenery';

/** Other tracks whose notes stand faintly behind those of the current track, such as the kit under the bass. */
@Injectable()
export class Behind {
  private readonly scenery = inject(Scenery);
  private readonly wanted = signal<ReadonlySet<string>>(new Set());

  /** The pictures of their parts. */
  readonly pictures = computed((): readonly Picture[] => {
    const ids = this.wanted();
    if (ids.size === 0) return NONE;
    const song = this.scenery.song();
    const here = this.scenery.track().id;
    return song.tracks
      .filter((t) => ids.has(t.id) && t.id !== here)
      .flatMap((t) => t.parts.map((p) => pictureOf(p, song)));
  });

  has(trackId: string): boolean {
    return this.wanted().has(trackId);
  }

  toggle(trackId: string): void {
    this.wanted.update((ids) => {
      const next = new Set(ids);
      if (!next.delete(trackId)) next.add(trackId);
      return next;
    });
  }
}

const NONE: readonly Picture[] = [];
