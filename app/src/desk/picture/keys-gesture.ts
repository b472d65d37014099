import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Sounding } from '../hand/sounding';
import { ORDER, type At, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { PanGesture } from './pan-gesture';

/** The keys at the left: one sounds and selects all its notes, such as one drum of a kit; dragged, they move the picture. */
@Injectable()
export class KeysGesture implements PointerSource {
  readonly order = ORDER.keys;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly sounding = inject(Sounding);
  private readonly panning = inject(PanGesture);

  under({ offsetX, offsetY }: At): Under | null {
    if (offsetX >= KEYS_WIDTH) return null;
    return {
      cursor: 'pointer',
      press: (from) => this.panning.pan(from),
      click: () => this.select(offsetY),
    };
  }

  private select(y: number): void {
    if (y >= this.view.rollBottom() || y < RULER_HEIGHT) return;
    const pitch = this.view.pitch(y);
    if (pitch < 0) return;
    this.sounding.touch(this.scenery.track().id, { pitch, velocity: this.shaping.loudness() });
    const notes = this.scenery.track().parts.flatMap((p) => p.notes.filter((n) => n.pitch === pitch));
    this.selecting.select(notes.map((n) => n.id));
  }
}
