import { computed, inject, Injectable } from '@angular/core';
import { noteWay } from '@early-sparrow/core/treatment';
import { unhurried } from '../../common/unhurried';
import type { Picture } from './picture';
import { Scenery, type SeenNote } from './scenery';
import { Selecting } from './selecting';
import { wayWords } from './way-words';

/** Why notes lie where they lie: the one that is selected, and any other that is asked about. */
@Injectable()
export class Ways {
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);

  private asked: { readonly picture: Picture; readonly index: number; readonly words: readonly string[] } | null = null;

  /** The note that is selected alone; null for none and for several. */
  readonly note = computed((): SeenNote | null => {
    const ids = this.selecting.ids();
    return ids.length === 1 ? this.scenery.find(ids[0]) : null;
  });
  /** Its way: the stages run once more for it, for which a drag in a long part has no time. */
  readonly way = unhurried(
    () => {
      const note = this.note();
      return note && { song: this.scenery.song(), part: note.picture.part, index: note.index };
    },
    ({ song, part, index }) => noteWay(part, song, index),
  );
  /** In words; empty where nothing moves it. */
  readonly words = computed(() => {
    const way = this.way();
    return way && this.scenery.corrected() ? wayWords(way, this.scenery.song()).join(' → ') : '';
  });

  /** The way of a note in words, a phrase a step; none where nothing moves it. */
  of({ picture, index }: SeenNote): readonly string[] {
    // The pointer asks again at every move over the note.
    if (this.asked?.picture !== picture || this.asked.index !== index) {
      const song = this.scenery.song();
      this.asked = { picture, index, words: wayWords(noteWay(picture.part, song, index), song) };
    }
    return this.asked.words;
  }
}
