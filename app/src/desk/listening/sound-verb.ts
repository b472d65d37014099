import { inject, Injectable } from '@angular/core';
import type { MidiBytes } from '@early-sparrow/core/record';
import { treatPart } from '@early-sparrow/core/treatment';
import { Player } from '../../sound/player';
import { Scenery } from '../hand/scenery';
import type { At, Gesture } from '../kit/pointer';
import type { Verb } from '../kit/verb';

/** A note as it sounds by itself. */
interface Struck {
  readonly id: number;
  readonly pitch: number;
  readonly velocity: number;
}

/** Plays the note under the pointer with its track's voice, and each one that the pointer comes to. */
@Injectable()
export class SoundVerb implements Verb {
  readonly group = 'Listen';
  readonly name = 'Play the notes under the pointer, while held';
  readonly keys = ['z'];
  private readonly player = inject(Player);
  private readonly scenery = inject(Scenery);

  begin(from: At): Gesture {
    const track = this.scenery.track().id;
    let sounding: Struck | null = null;
    // While the song stands still the engine may be asleep, and not know the track's voice yet.
    const awake = this.player.wake();
    const send = (bytes: MidiBytes): void =>
      void awake.then((can) => {
        if (can) this.player.live(track, bytes);
      });
    const go = (note: Struck | null): void => {
      if (note?.id === sounding?.id) return;
      if (sounding) send([0x80, sounding.pitch, 64]);
      if (note) send([0x90, note.pitch, note.velocity]);
      sounding = note;
    };
    go(this.under(from));
    return { kind: 'sound', move: (at) => go(this.under(at)), drop: () => go(null), cancel: () => go(null) };
  }

  private under(at: At): Struck | null {
    const { scenery } = this;
    const i = scenery.noteUnder(at);
    if (i < 0) return null;
    const { part } = scenery.picture();
    const note = part.notes[i];
    // As loud as it is on the side that is shown.
    const velocity = scenery.corrected() ? treatPart(part, scenery.song()).velocity[i] : note.velocity;
    return { id: note.id, pitch: note.pitch, velocity: Math.max(1, velocity) };
  }
}
