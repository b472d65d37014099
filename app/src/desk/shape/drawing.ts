import { inject, Injectable } from '@angular/core';
import * as z from 'zod';
import { kept } from '../../common/kept';
import { Scenery } from '../hand/scenery';

const DrawingSchema = z.object({
  /** How long a new note is, in quarter notes; null for a step of the grid. */
  quarters: z.number().min(0.01).max(64).nullable(),
});

/** How notes are drawn. */
@Injectable()
export class Drawing {
  private readonly scenery = inject(Scenery);
  readonly values = kept('early-sparrow.drawing', DrawingSchema, { quarters: null });

  /** How long a new note is at a tick: a step of the grid there, or what was chosen. Ticks, at least 1. */
  step(tick: number): number {
    const { quarters } = this.values();
    const { lines } = this.scenery.pictureAt(tick);
    const ticks = quarters === null ? lines.gapAt(tick) : quarters * this.scenery.song().ppq;
    return Math.max(1, Math.round(ticks));
  }
}
