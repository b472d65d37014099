import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { newPart, newSong, newTrack, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { Player } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import type { At } from '../kit/pointer';
import { RULER_HEIGHT, Viewport } from '../kit/viewport';
import { noteAt, pictureOf, type Picture } from './picture';
import { Treating } from './treating';

const NO_SONG = newSong('');
const NO_TRACK = newTrack('', '');
const NO_PART = newPart('', '', 0, 1);

/** A note can be pressed this far beside it, in px. */
const SLACK_PX = 2;

/** What the picture shows: the current part, including any preview, as played or as corrected. */
@Injectable()
export class Scenery {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly treating = inject(Treating);
  private readonly view = inject(Viewport);
  private readonly shownSong = this.store.selectSignal(deskFeature.selectShownSong);
  private readonly shownTrack = this.store.selectSignal(deskFeature.selectShownTrack);
  private readonly shownPart = this.store.selectSignal(deskFeature.selectShownPart);

  readonly song = computed((): Song => this.shownSong() ?? NO_SONG);
  readonly track = computed((): Track => this.shownTrack() ?? NO_TRACK);
  readonly part = computed((): Part => this.shownPart() ?? NO_PART);
  readonly corrected = computed(() => this.player.shown() === 'corrected');
  readonly picture = computed((): Picture => pictureOf(this.part(), this.song()));
  /** The treatment that the panel is about: the part's, or that of the own settings that are open. */
  readonly treatment = computed(() => this.treating.treatment() ?? this.part().treatment);

  /** Index of the note of the roll under a place; −1 for none, and outside of the roll. */
  noteUnder({ offsetX: x, offsetY: y }: At): number {
    const { view } = this;
    if (y < RULER_HEIGHT || y >= view.rollBottom()) return -1;
    return noteAt(this.picture(), this.corrected(), view.tick(x), view.pitch(y), SLACK_PX / view.scale());
  }
}
