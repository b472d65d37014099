import { inject, Injectable } from '@angular/core';
import { stepTicks, SWING_MAX, SWING_MIN } from '@early-sparrow/core/grid';
import { Scenery } from '../hand/scenery';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { RULER_HEIGHT, Viewport } from '../kit/viewport';
import { swingHandles, type SwingHandle } from './swing-handles';

/** Handles reach so far up from the ruler's lower edge, and so far to either side; in px. */
const HANDLE_HEIGHT = 14;
const HANDLE_PX = 7;

/** The off-beat lines have handles in the ruler: dragged, they swing. */
@Injectable()
export class SwingGesture implements PointerSource {
  // The playhead goes where no handle is.
  readonly order = ORDER.ruler - 0.5;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);

  under({ offsetX, offsetY }: At): Under | null {
    if (offsetY < RULER_HEIGHT - HANDLE_HEIGHT || offsetY >= RULER_HEIGHT) return null;
    const { picture, song, treatment } = this.scenery;
    const handle = swingHandles(this.view, picture().lines, treatment(), song()).find(
      ({ line }) => Math.abs(this.view.x(line) - offsetX) <= HANDLE_PX,
    );
    return handle ? { cursor: 'ew-resize', press: () => this.swing(handle) } : null;
  }

  private swing({ pair }: SwingHandle): Gesture {
    const step = stepTicks(this.scenery.treatment().quantize.grid, this.scenery.song().ppq);
    const change = (at: At) => {
      const wanted = (this.view.tick(at.offsetX) - pair) / (2 * step);
      const swing = Math.round(Math.min(SWING_MAX, Math.max(SWING_MIN, wanted)) * 200) / 200;
      this.feedback.hint.set(`swing ${Math.round(swing * 1000) / 10}\u00a0%`);
      return { quantize: { grid: { swing } } };
    };
    return {
      kind: 'swing',
      move: (at) => this.treating.try('Swing', change(at)),
      drop: (at) => this.treating.commit('Swing', change(at)),
      cancel: () => this.treating.endTrying(),
    };
  }
}
