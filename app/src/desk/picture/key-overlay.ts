import { computed, inject, Injectable } from '@angular/core';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { pitchName } from '../../common/format';
import { Scenery } from '../hand/scenery';
import { clipped, TEXT_FONT, type Scene } from '../kit/draw';
import { Feedback } from '../kit/feedback';
import type { Overlay } from '../kit/overlay';
import { KEYS_WIDTH } from '../kit/viewport';

/** The name of the key that the pointer is level with, at the left. */
@Injectable()
export class KeyOverlay implements Overlay {
  private readonly scenery = inject(Scenery);
  private readonly feedback = inject(Feedback);
  private readonly drums = computed(() => isDrums(this.scenery.track()));

  depends(): void {
    void [this.feedback.row(), this.drums()];
  }

  draw({ ctx, view, colors }: Scene): void {
    const row = this.feedback.row();
    const pitch = row === null ? -1 : view.pitch(row);
    if (pitch < 0) return;
    const [top, height] = [view.y(pitch), Math.max(15, view.rowHeight())];
    const y = top + view.rowHeight() / 2 - height / 2;
    clipped(ctx, 0, y, KEYS_WIDTH, height, () => {
      ctx.fillStyle = colors.action;
      ctx.fillRect(0, y, KEYS_WIDTH, height);
      ctx.fillStyle = colors.paper;
      ctx.font = `12px ${TEXT_FONT}`;
      ctx.textAlign = 'right';
      ctx.textBaseline = 'middle';
      const name = this.drums() ? percussionName(pitch) : pitchName(pitch);
      ctx.fillText(name, KEYS_WIDTH - 6, y + height / 2, KEYS_WIDTH - 8);
    });
  }
}
