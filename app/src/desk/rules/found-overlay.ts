import { inject, Injectable } from '@angular/core';
import { Scenery } from '../hand/scenery';
import { clipped, faint, type Scene } from '../kit/draw';
import type { Overlay } from '../kit/overlay';
import { KEYS_WIDTH, RULER_HEIGHT } from '../kit/viewport';
import { DETAIL } from '../picture/draw-notes';
import { frameNotes, shadeNotes } from '../picture/draw-parts';
import { Ruling } from './ruling';

/** Frames the notes that the open rule finds. */
@Injectable()
export class FoundOverlay implements Overlay {
  private readonly ruling = inject(Ruling);
  private readonly scenery = inject(Scenery);

  depends(): void {
    this.ruling.found();
  }

  draw({ ctx, view, colors }: Scene): void {
    const ids = this.ruling.found();
    if (!this.ruling.open() || ids.size === 0) return;
    const { scenery } = this;
    const wanted = (id: number) => ids.has(id);
    clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
      ctx.beginPath();
      ctx.fillStyle = faint(colors.action, 0.45);
      ctx.strokeStyle = colors.action;
      ctx.lineWidth = 1.5;
      ctx.setLineDash([3, 2]);
      for (const picture of scenery.pictures()) {
        const small = scenery.song().ppq * view.scale() < DETAIL;
        (small ? shadeNotes : frameNotes)(ctx, view, picture, scenery.corrected(), wanted);
      }
      ctx.stroke();
      ctx.setLineDash([]);
      ctx.lineWidth = 1;
    });
  }
}
