import { inject, Injectable } from '@angular/core';
import { Player } from '../../sound/player';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';

/** A press in the ruler puts the playhead there. */
@Injectable()
export class SeekGesture implements PointerSource {
  // Behind the loop's strip and the handles that lie in the ruler.
  readonly order = ORDER.ruler + 0.5;
  private readonly view = inject(Viewport);
  private readonly player = inject(Player);

  under({ offsetX, offsetY }: At): Under | null {
    if (offsetY >= RULER_HEIGHT || offsetX < KEYS_WIDTH) return null;
    return { cursor: 'text', press: () => this.seek(), click: (at) => this.to(at) };
  }

  private to({ offsetX }: At): void {
    this.player.seek(Math.max(0, this.view.tick(offsetX)));
  }

  private seek(): Gesture {
    const before = this.player.position();
    return {
      kind: 'seek',
      scrolls: 'sideways',
      // While it plays the sound jumps once, when the pointer is let go.
      move: (at) => !this.player.playing() && this.to(at),
      drop: (at) => this.to(at),
      cancel: () => !this.player.playing() && this.player.seek(before),
    };
  }
}
