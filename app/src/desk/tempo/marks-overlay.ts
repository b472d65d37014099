import { inject, Injectable } from '@angular/core';
import { clipped, sideLabel, type Scene } from '../kit/draw';
import type { Overlay } from '../kit/overlay';
import { KEYS_WIDTH, LOOP_HEIGHT, MARKS_HEIGHT } from '../kit/viewport';
import { MARK_FONT, MarkPlaces } from './mark-places';
import { MarkEditing } from './mark-editing';

/** Tempo, meter, keys and markers in the ruler. */
@Injectable()
export class MarksOverlay implements Overlay {
  private readonly places = inject(MarkPlaces);
  private readonly editing = inject(MarkEditing);

  depends(): void {
    void [this.places.seen(), this.editing.ghost()];
  }

  draw({ ctx, view, colors }: Scene): void {
    const middle = LOOP_HEIGHT + MARKS_HEIGHT / 2 + 0.5;
    ctx.fillStyle = colors.soft;
    sideLabel(ctx, 'marks', middle);
    clipped(ctx, KEYS_WIDTH, LOOP_HEIGHT, view.notesWidth(), MARKS_HEIGHT, () => {
      ctx.font = MARK_FONT;
      ctx.textAlign = 'left';
      ctx.textBaseline = 'middle';
      for (const { mark, text, x, left, width } of this.places.seen()) {
        ctx.fillStyle = mark.kind === 'marker' ? colors.action : colors.soft;
        if (width === 0) {
          // At the foot of the row: over the text of another mark neither could be read.
          ctx.fillRect(Math.round(x) - 2, LOOP_HEIGHT + MARKS_HEIGHT - 4, 5, 4);
          continue;
        }
        ctx.fillRect(Math.round(x), LOOP_HEIGHT + 1, 1, MARKS_HEIGHT - 1);
        if (mark.kind !== 'marker') ctx.fillStyle = colors.ink;
        clipped(ctx, left, LOOP_HEIGHT, width + 1, MARKS_HEIGHT, () => ctx.fillText(text, left, middle));
      }
    });
    const ghost = this.editing.ghost();
    if (ghost === null) return;
    ctx.fillStyle = colors.action;
    ctx.fillRect(Math.round(view.x(ghost)), LOOP_HEIGHT, 2, view.height());
  }
}
