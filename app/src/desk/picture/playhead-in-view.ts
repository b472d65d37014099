import { effect, inject, Injectable } from '@angular/core';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { Pointing } from '../kit/pointing';
import { Viewport } from '../kit/viewport';
import { Pressing } from './pressing';

/** The page turns with this share of its width left, and the playhead then stands as far from its left edge. */
const MARGIN = 0.08;

/**
 * Turns the page when the playhead runs out of view. If the user scrolls away, the page stays there until the playhead
 * is in view again or playback starts anew. It also stays during a drag or a sweep.
 */
@Injectable()
export class PlayheadInView {
  private readonly view = inject(Viewport);
  private readonly player = inject(Player);
  private readonly listening = inject(ListeningSettings);
  private readonly pressing = inject(Pressing);
  private readonly pointing = inject(Pointing);
  private began: unknown = null;
  private left = 0;
  private scale = 0;
  private away = false;

  constructor() {
    effect(() => this.keep());
  }

  /** The view is where the program put it: it may turn the page. */
  back(): void {
    this.away = false;
    this.left = this.view.left();
    this.scale = this.view.scale();
  }

  private keep(): void {
    const { view, player } = this;
    const position = player.position();
    const began = player.began();
    const visible = view.notesWidth() / view.scale();
    const seen = position >= view.left() && position <= view.right() - visible * MARGIN;
    if (!player.playing() || !this.listening.values().follow || this.pressing.busy || this.pointing.busy) return;
    if (began !== this.began || seen) this.back();
    this.began = began;
    this.away ||= view.left() !== this.left || view.scale() !== this.scale;
    if (seen || this.away) return;
    view.scrollTo(position - visible * MARGIN);
    this.back();
  }
}
