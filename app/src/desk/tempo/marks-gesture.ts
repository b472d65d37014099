import { inject, Injectable } from '@angular/core';
import { placeText } from '../../common/places';
import { Player } from '../../sound/player';
import { Feedback } from '../kit/feedback';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { BARS_TOP, KEYS_WIDTH, LOOP_HEIGHT, Viewport } from '../kit/viewport';
import { MarkEditing } from './mark-editing';
import { MarkPlaces } from './mark-places';
import { MARK_KINDS, markText, type Mark } from './marks';
import { TimeActs } from './time-acts';

/** The strip of marks in the ruler: a mark is dragged, pressed twice to edit it; an empty place gets a marker. */
@Injectable()
export class MarksGesture implements PointerSource {
  readonly order = ORDER.ruler;
  private readonly view = inject(Viewport);
  private readonly places = inject(MarkPlaces);
  private readonly editing = inject(MarkEditing);
  private readonly acts = inject(TimeActs);
  private readonly feedback = inject(Feedback);
  private readonly player = inject(Player);

  under({ offsetX, offsetY }: At): Under | null {
    if (offsetY < LOOP_HEIGHT || offsetY >= BARS_TOP || offsetX < KEYS_WIDTH) return null;
    const seen = this.places.under(offsetX);
    const click = () => this.player.seek(Math.max(0, seen ? seen.mark.at : this.view.tick(offsetX)));
    if (!seen) {
      const double = () => this.editing.open({ fresh: this.acts.nearest(this.view.tick(offsetX), 'beat') });
      return { cursor: 'text', hint: 'Double-click to add a marker', click, double };
    }
    const { mark } = seen;
    const double = () => this.editing.open({ mark });
    const hint = `${MARK_KINDS[mark.kind]} ${markText(mark)}. Double-click to change it`;
    if (this.acts.stays(mark)) return { cursor: 'default', hint, click, double };
    return { cursor: 'grab', hint: `${hint}, drag to move it`, click, double, press: () => this.drag(mark) };
  }

  private drag(mark: Mark): Gesture {
    const to = (at: At): number => {
      const tick = Math.max(0, this.view.tick(at.offsetX));
      if (mark.kind === 'meter') return this.acts.nearest(tick, 'bar');
      return at.ctrlKey || at.metaKey ? Math.round(tick) : this.acts.nearest(tick, 'beat');
    };
    return {
      kind: 'mark',
      scrolls: 'sideways',
      move: (at) => {
        const song = this.acts.song();
        this.editing.ghost.set(to(at));
        if (song) this.feedback.hint.set(`${markText(mark)} at ${placeText(song, to(at))}`);
      },
      drop: (at) => {
        this.editing.ghost.set(null);
        this.acts.move(mark, to(at));
      },
      cancel: () => this.editing.ghost.set(null),
    };
  }
}
