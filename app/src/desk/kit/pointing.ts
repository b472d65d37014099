import { inject, Injectable } from '@angular/core';
import { Said } from '../../common/said';
import type { Held } from './command';
import type { At, Gesture } from './pointer';
import type { Verb } from './verb';

/** Where the pointer is in the picture, or the keyboard's note cursor, and the verb that a key does there. */
@Injectable()
export class Pointing {
  private readonly said = inject(Said);
  private at: At | null = null;
  private doing: Gesture | null = null;
  /** Where the note cursor is, which counts while no pointer is in the picture; null for nowhere. */
  cursor: () => At | null = () => null;

  /** Whether a key that is held does something. */
  get busy(): boolean {
    return this.doing !== null;
  }

  /** The pointer moved. */
  move(at: At): void {
    this.at = at;
    this.doing?.move(at);
  }

  /** The pointer left the picture, or the keyboard goes from note to note; what is done stays where it was last. */
  leave(): void {
    this.at = null;
  }

  begin(verb: Verb): Held | null {
    const from = this.at ?? this.cursor();
    if (!from) {
      this.said.say('Point at a note in the picture, then hold the key.');
      return null;
    }
    const gesture = verb.begin(from);
    if (!gesture) return null;
    let last = from;
    this.doing = {
      ...gesture,
      move: (at) => {
        last = at;
        gesture.move(at);
      },
    };
    return {
      drop: () => {
        this.doing = null;
        gesture.drop(last);
      },
      cancel: () => {
        this.doing = null;
        gesture.cancel();
      },
    };
  }
}
