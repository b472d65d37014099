import { inject, Injectable } from '@angular/core';
import { treatPart } from '@early-sparrow/core/treatment';
import { Scenery } from '../hand/scenery';
import { Sounding, type Struck } from '../hand/sounding';
import type { At, Gesture } from '../kit/pointer';
import type { Verb } from '../kit/verb';

/** Plays the note under the pointer with its track's voice, and each one that the pointer comes to. */
@Injectable()
export class SoundVerb implements Verb {
  readonly id = 'sound';
  readonly short = 'Play';
  readonly group = 'Point and key';
  readonly name = 'Play the notes under the pointer, while held';
  readonly keys = ['z'];
  private readonly scenery = inject(Scenery);
  private readonly sounding = inject(Sounding);

  begin(from: At): Gesture {
    const track = this.scenery.track().id;
    let last: number | null = null;
    const go = (at: At | null): void => {
      const note = at && this.under(at);
      if ((note?.id ?? null) === last) return;
      last = note?.id ?? null;
      this.sounding.strike(track, note);
    };
    go(from);
    return { kind: 'sound', move: go, drop: () => go(null), cancel: () => go(null) };
  }

  private under(at: At): (Struck & { readonly id: number }) | null {
    const { scenery } = this;
    const found = scenery.noteUnder(at);
    if (!found) return null;
    const { picture, index } = found;
    const { part } = picture;
    const note = part.notes[index];
    // As loud as it is on the side that is shown.
    const velocity = scenery.corrected() ? treatPart(part, scenery.song()).velocity[index] : note.velocity;
    return { id: note.id, pitch: note.pitch, velocity };
  }
}
