import { computed, inject, Injectable } from '@angular/core';
import { noteWay } from '@early-sparrow/core/treatment';
import { Scenery, type SeenNote } from './scenery';
import { Selecting } from './selecting';
import { wayWords } from './way-words';

/** Why notes lie where they lie: the one that is selected, and any other that is asked about. */
@Injectable()
export class Ways {
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);

  /** The note that is selected alone, with its way; null for none and for several. */
  readonly selected = computed(() => {
    const ids = this.selecting.ids();
    const note = ids.length === 1 ? this.scenery.find(ids[0]) : null;
    return note && { note, way: noteWay(note.picture.part, this.scenery.song(), note.index) };
  });
  /** Its way in words; empty where nothing moves it. */
  readonly words = computed(() => {
    const selected = this.selected();
    return selected && this.scenery.corrected() ? wayWords(selected.way, this.scenery.song()).join(' → ') : '';
  });

  /** The way of a note in words, a phrase a step; none where nothing moves it. */
  of({ picture, index }: SeenNote): readonly string[] {
    const song = this.scenery.song();
    return wayWords(noteWay(picture.part, song, index), song);
  }
}
