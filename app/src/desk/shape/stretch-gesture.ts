import { computed, inject, Injectable } from '@angular/core';
import { stretch } from '@early-sparrow/core/shape';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import type { Scene } from '../kit/draw';
import { Feedback } from '../kit/feedback';
import type { Overlay } from '../kit/overlay';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, LOOP_HEIGHT, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { NoteGesture } from '../picture/note-gesture';

/** The handle is under the pointer if it is this close, in px. */
const HANDLE_PX = 6;

/** The end of what is selected has a handle in the ruler: dragged, it stretches the notes around their first start. */
@Injectable()
export class StretchGesture implements PointerSource, Overlay {
  readonly order = ORDER.ruler - 0.7;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly shaping = inject(Shaping);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);
  /** What is selected, where that is more than one note. */
  private readonly span = computed(() => (this.selecting.count() > 1 ? this.shaping.selectedSpan() : null));

  depends(): void {
    this.span();
  }

  draw({ ctx, view, colors }: Scene): void {
    const span = this.span();
    if (!span) return;
    const [from, to] = [view.x(span.from), view.x(span.to)];
    ctx.fillStyle = colors.action;
    const left = Math.max(KEYS_WIDTH, from);
    if (to > left) ctx.fillRect(left, RULER_HEIGHT - 2, Math.min(view.width(), to) - left, 2);
    if (to < KEYS_WIDTH || to > view.width()) return;
    ctx.beginPath();
    ctx.moveTo(to, RULER_HEIGHT - 13);
    ctx.lineTo(to + 9, RULER_HEIGHT - 7);
    ctx.lineTo(to, RULER_HEIGHT - 1);
    ctx.fill();
  }

  under({ offsetX, offsetY }: At): Under | null {
    const span = this.span();
    if (!span || offsetY < LOOP_HEIGHT || offsetY >= RULER_HEIGHT || offsetX < KEYS_WIDTH) return null;
    const away = offsetX - this.view.x(span.to);
    if (away < -HANDLE_PX / 2 || away > HANDLE_PX + 4) return null;
    return { cursor: 'ew-resize', hint: 'Drag to stretch the selection', press: (from) => this.drag(span, from) };
  }

  private drag(span: { readonly from: number; readonly to: number }, from: At): Gesture {
    const hand = this.shaping.hand();
    const picture = this.scenery.picture();
    const change = (at: At) => {
      if (!hand) return null;
      const wanted = span.to + (at.offsetX - from.offsetX) / this.view.scale();
      const end = Math.max(span.from + 1, this.notes.snapped(picture, wanted, at));
      const factor = (end - span.from) / (span.to - span.from);
      this.feedback.hint.set(`${Math.round(factor * 1000) / 10}\u00a0% as long`);
      return stretch(hand.track, hand.taken, factor);
    };
    return { ...this.shaping.changing('stretch', change), scrolls: 'sideways' };
  }
}
