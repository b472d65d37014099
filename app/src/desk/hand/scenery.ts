import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { newPart, newSong, newTrack, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { Player } from '../../sound/player';
import { deskFeature } from '../../state/desk.feature';
import type { Lines } from '@early-sparrow/core/grid';
import type { At } from '../kit/pointer';
import { RULER_HEIGHT, Viewport } from '../kit/viewport';
import { noteAt, pictureOf, type Picture } from './picture';
import { Treating } from './treating';

const NO_SONG = newSong('');
const NO_TRACK = newTrack('', '');
const NO_PART = newPart('', '', 0, 1);

/** A note can be pressed this far beside it, in px. */
const SLACK_PX = 2;

/** A note in the picture of its part. */
export interface SeenNote {
  readonly picture: Picture;
  readonly index: number;
  readonly id: number;
}

/** What the picture shows: the current track and part, including any preview, as played or as corrected. */
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
  /** The other parts of the track, in their order. */
  readonly others = computed((): readonly Picture[] => {
    const { parts } = this.track();
    if (parts.length < 2) return NONE;
    return parts.filter((p) => p !== this.part()).map((p) => pictureOf(p, this.song()));
  });
  /** All parts of the track, the current one first. */
  readonly pictures = computed((): readonly Picture[] => [this.picture(), ...this.others()]);
  /** The treatment that the panel is about: the part's, or that of the own settings that are open. */
  readonly treatment = computed(() => this.treating.treatment() ?? this.part().treatment);

  /**
   * The note of the roll under a place, of the current part first; null for none, and outside of the roll.
   * @param pictures where notes are looked for: a gesture that changes them looks where they were
   */
  noteUnder({ offsetX: x, offsetY: y }: At, pictures = this.pictures()): SeenNote | null {
    const { view } = this;
    if (y < RULER_HEIGHT || y >= view.rollBottom()) return null;
    const [tick, pitch, slack] = [view.tick(x), view.pitch(y), SLACK_PX / view.scale()];
    for (const picture of pictures) {
      const index = noteAt(picture, this.corrected(), tick, pitch, slack);
      if (index >= 0) return { picture, index, id: picture.part.notes[index].id };
    }
    return null;
  }

  /** A note of the track by its id. */
  find(id: number): SeenNote | null {
    for (const picture of this.pictures()) {
      const index = picture.part.notes.findIndex((n) => n.id === id);
      if (index >= 0) return { picture, index, id };
    }
    return null;
  }

  /** The picture of the part that a tick lies in; else that of the current part. */
  pictureAt(tick: number): Picture {
    const inside = ({ part }: Picture) => part.start <= tick && tick < part.end;
    return this.others().find(inside) ?? this.picture();
  }

  /** The lines of a part of the track: a selection reaches over parts, and each goes by its own. */
  readonly linesOf = (part: Part): Lines =>
    this.pictures().find((p) => p.part.id === part.id)?.lines ?? this.picture().lines;

  /** Where a note lies on the side that is shown. Ticks. */
  placeOf({ picture, index }: SeenNote): { readonly start: number; readonly end: number } {
    const corrected = this.corrected();
    return {
      start: (corrected ? picture.now : picture.played)[index],
      end: (corrected ? picture.nowEnd : picture.playedEnd)[index],
    };
  }
}

const NONE: readonly Picture[] = [];
