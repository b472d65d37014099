import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { newPart, newSong, newTrack, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { Player } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import { pictureOf, type Picture } from './picture';
import { Treating } from './treating';

const NO_SONG = newSong('');
const NO_TRACK = newTrack('', '');
const NO_PART = newPart('', '', 0, 1);

/** What the picture shows: the part at hand with what is being tried, and which side of it. */
@Injectable()
export class Scenery {
  private readonly store = inject(Store);
  private readonly player = inject(Player);
  private readonly treating = inject(Treating);
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
}
