import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { Ways } from '../hand/ways';
import { clipped, type Scene } from '../kit/draw';
import type { Overlay } from '../kit/overlay';
import { KEYS_WIDTH } from '../kit/viewport';
import { laneY, OFFSET } from './draw-lane';

/** Half the width of a step's mark, in px. */
const HALF = 5;

/** The way of the selected note in the offset lane: a short line for each stage that moved it, joined in their order. */
@Injectable()
export class WayOverlay implements Overlay {
  private readonly ways = inject(Ways);
  private readonly scenery = inject(Scenery);

  depends(): void {
    void [this.ways.way(), this.ways.note(), this.scenery.corrected()];
  }

  draw({ ctx, view, colors }: Scene): void {
    const [note, way] = [this.ways.note(), this.ways.way()];
    const frame = view.frameOf(OFFSET);
    if (!note || !way || !this.scenery.corrected() || frame.height === 0) return;
    if (way.steps.length < 2) return;
    const places = [{ start: way.played, offsetMs: way.playedMs }, ...way.steps];
    clipped(ctx, KEYS_WIDTH, frame.top, view.notesWidth(), frame.height, () => {
      ctx.strokeStyle = colors.ink;
      ctx.lineWidth = 1.5;
      ctx.beginPath();
      places.forEach(({ start, offsetMs }, i) => {
        const [x, y] = [view.x(start), laneY(frame, note.picture, offsetMs)];
        if (i > 0) ctx.lineTo(x, y);
        ctx.moveTo(x - HALF, y);
        ctx.lineTo(x + HALF, y);
        ctx.moveTo(x, y);
      });
      ctx.stroke();
      ctx.lineWidth = 1;
    });
  }
}
