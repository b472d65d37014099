import { inject, Injectable } from '@angular/core';
import { Feedback } from '../kit/feedback';
import { POINTER, type At, type Gesture, type Under } from '../kit/pointer';

const NOTHING: Under = { cursor: 'default' };

/** What the pointer does in the picture, by what is under it: the rooms of the desk contribute it. */
@Injectable()
export class Gestures {
  private readonly feedback = inject(Feedback);
  private readonly sources = [...(inject(POINTER, { optional: true }) ?? [])].sort((a, b) => a.order - b.order);

  /** What is under a place. */
  under(at: At): Under {
    for (const source of this.sources) {
      const found = source.under(at);
      if (found) return found;
    }
    return NOTHING;
  }

  /** What pressing and moving begins; its hint and its rectangle go with it. */
  begin(at: At): Gesture {
    return this.shown(this.under(at).press?.(at) ?? IDLE);
  }

  /** What pressing a second time begins; null where that is nothing of its own. */
  again(at: At): Gesture | null {
    const gesture = this.under(at).again?.(at);
    return gesture ? this.shown(gesture) : null;
  }

  /** Wraps a gesture so that its hint and its rectangle go when it ends. */
  private shown(gesture: Gesture): Gesture {
    const over = () => {
      this.feedback.hint.set(null);
      this.feedback.box.set(null);
    };
    return {
      kind: gesture.kind,
      scrolls: gesture.scrolls,
      move: (to) => gesture.move(to),
      drop: (to) => {
        gesture.drop(to);
        over();
      },
      cancel: () => {
        gesture.cancel();
        over();
      },
    };
  }
}

const IDLE: Gesture = { kind: 'none', move: () => undefined, drop: () => undefined, cancel: () => undefined };
