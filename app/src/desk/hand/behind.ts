import { computed, inject, Injectable, signal } from '@angular/core';
import { sameEach } from '@early-sparrow/core/maths';
import { pictureOf, type Picture } from './picture';
import { Scenery } from './scenery';

/** Other tracks whose notes stand faintly behind those of the current track, such as the kit under the bass. */
@Injectable()
export class Behind {
  private readonly scenery = inject(Scenery);
  private readonly wanted = signal<ReadonlyMap<string, Shown>>(new Map());

  /** The pictures of their parts. */
  readonly pictures = computed((): readonly Picture[] => this.of(() => true), { equal: sameEach });
  /** The pictures whose lines are shown too. */
  readonly lined = computed((): readonly Picture[] => this.of((shown) => shown === 'lines'), { equal: sameEach });

  /** What of a track stands behind; null for nothing. */
  shown(trackId: string): Shown | null {
    return this.wanted().get(trackId) ?? null;
  }

  /** Shows a track's notes, then its lines too, then neither. */
  next(trackId: string): void {
    this.wanted.update((wanted) => {
      const next = new Map(wanted);
      const shown = next.get(trackId);
      if (shown === 'lines') next.delete(trackId);
      else next.set(trackId, shown === 'notes' ? 'lines' : 'notes');
      return next;
    });
  }

  private of(wish: (shown: Shown) => boolean): readonly Picture[] {
    const wanted = this.wanted();
    if (wanted.size === 0) return NONE;
    const song = this.scenery.song();
    const here = this.scenery.track().id;
    return song.tracks
      .filter(({ id }) => {
        const shown = wanted.get(id);
        return id !== here && shown !== undefined && wish(shown);
      })
      .flatMap((t) => t.parts.map((p) => pictureOf(p, song)));
  }
}

/** A track's notes alone, or with the lines of its treatment. */
export type Shown = 'notes' | 'lines';

const NONE: readonly Picture[] = [];
