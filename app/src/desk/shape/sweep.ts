import { inject, Injectable } from '@angular/core';
import type { Shaped, Taken } from '@early-sparrow/core/shape';
import { countedFirst } from '../../common/format';
import { Scenery } from '../hand/scenery';
import { Shaping, type Hand } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { onTheWay, type At, type Gesture } from '../kit/pointer';
import type { Verb } from '../kit/verb';
import { Viewport } from '../kit/viewport';

/** The pointer's way is looked at every so many px. */
const STEP_PX = 3;

/** What a verb does to the notes that it has come by. */
export interface Sweeping {
  /** Past, as the hint says it: `3 notes muted`. */
  readonly done: string;
  /** Whether what it does cannot be seen on the side as played. */
  readonly elsewhere?: boolean;
  /** Whether what it does shows in the picture by itself; else the notes are marked. */
  readonly marks?: boolean;
  /** Begins a sweep: what it does to the notes may depend on the first one. @param at where each note was come by */
  begin(first: Taken): (hand: Hand, at: (taken: Taken) => number) => Shaped;
}

/** Sweeps of the pointer over notes: each that it comes by has the same done to it, as one step. */
@Injectable()
export class Sweeps {
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);

  /** A verb made of what it does. @param beside what it does beside the notes, where it does anything there */
  verb(
    words: Omit<Verb, 'begin' | 'group'>,
    sweeping: Sweeping,
    beside: (at: At) => Gesture | null = () => null,
  ): Verb {
    return { group: 'Point and key', ...words, begin: (at) => beside(at) ?? this.begin(sweeping, at) };
  }

  private begin(sweeping: Sweeping, from: At): Gesture | null {
    /** Where each note was come by, in ticks. */
    const came = new Map<number, number>();
    let shape: ReturnType<Sweeping['begin']> | null = null;
    let before = from;
    // Where they were: what they become is worked out once a frame, not at every move of the pointer.
    const pictures = this.scenery.pictures();
    const look = (at: At): boolean => {
      const note = this.scenery.noteUnder(at, pictures);
      if (!note || came.has(note.id)) return false;
      came.set(note.id, this.view.tick(at.offsetX));
      return true;
    };
    const along = (to: At): boolean => {
      const found = onTheWay(before, to, STEP_PX).filter(look);
      before = to;
      return found.length > 0;
    };
    const shaped = (): Shaped => {
      const hand = this.shaping.hand([...came.keys()]);
      if (!hand || hand.taken.length === 0) return null;
      const first = hand.taken.find((t) => t.note.id === came.keys().next().value) ?? hand.taken[0];
      shape ??= sweeping.begin(first);
      return shape(hand, ({ note }) => came.get(note.id) ?? 0);
    };
    const show = () => {
      this.feedback.hint.set(`${countedFirst(came.size, 'note')} ${sweeping.done}`);
      if (sweeping.marks) this.feedback.marked.set(new Set(came.keys()));
      else this.shaping.show(shaped());
    };
    const over = () => {
      this.feedback.hint.set(null);
      this.feedback.marked.set(new Set());
      this.treating.endTrying();
    };
    // While the picture shows what becomes of them, erased notes would be gone from under the pointer.
    if (look(from)) show();
    return {
      kind: 'sweep',
      move: (at) => {
        if (along(at)) show();
      },
      drop: (at) => {
        along(at);
        const last = shaped();
        over();
        if (last) this.shaping.make(last, 'sweep', {}, sweeping.elsewhere);
      },
      cancel: over,
    };
  }
}
