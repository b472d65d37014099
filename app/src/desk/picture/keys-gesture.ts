import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { ORDER, type At, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { PanGesture } from './pan-gesture';

/** The keys at the left: one selects all its notes, such as one drum of a kit; dragged, they move the picture. */
@Injectable()
export class KeysGesture implements PointerSource {
  readonly order = ORDER.keys;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
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
    const notes = this.scenery.part().notes.filter((n) => n.pitch === pitch);
    this.selecting.select(notes.map((n) => n.id));
  }
}
