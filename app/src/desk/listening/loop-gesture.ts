import { inject, Injectable } from '@angular/core';
import { Player } from '../../sound/player';
import { Scenery } from '../hand/scenery';
import { ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, LOOP_HEIGHT, Viewport } from '../kit/viewport';

interface Where {
  readonly place: 'edge' | 'inside' | 'outside';
  readonly edge: 'from' | 'to';
}

/** An edge is under the pointer if it is this close, in px. */
const EDGE_PX = 5;
const CURSORS = { edge: 'ew-resize', inside: 'grab', outside: 'crosshair' } as const;

/** The strip over the ruler: the loop is drawn there, moved, resized and switched. */
@Injectable()
export class LoopGesture implements PointerSource {
  readonly order = ORDER.ruler;
  private readonly view = inject(Viewport);
  private readonly player = inject(Player);
  private readonly scenery = inject(Scenery);

  under({ offsetX, offsetY }: At): Under | null {
    if (offsetY >= LOOP_HEIGHT || offsetX < KEYS_WIDTH) return null;
    const where = this.where(offsetX);
    const cursor = CURSORS[where.place];
    return { cursor, press: (from) => this.drag(where, from), click: () => this.click(where.place !== 'outside') };
  }

  private where(x: number): Where {
    const { from, to } = this.player.loop();
    if (to <= from) return { place: 'outside', edge: 'to' };
    const [a, b] = [this.view.x(from), this.view.x(to)];
    const edge = Math.abs(x - a) < Math.abs(x - b) ? 'from' : 'to';
    if (Math.min(Math.abs(x - a), Math.abs(x - b)) <= EDGE_PX) return { place: 'edge', edge };
    return { place: x > a && x < b ? 'inside' : 'outside', edge };
  }

  /** A press on the loop switches it; beside it, it takes its range away. */
  private click(on: boolean): void {
    if (on) {
      this.player.loopOn.update((was) => !was);
      return;
    }
    this.player.loopOn.set(false);
    this.player.loop.set({ from: 0, to: 0 });
  }

  private drag({ place, edge }: Where, from: At): Gesture {
    const before = this.player.loop();
    const wasOn = this.player.loopOn();
    const start = this.view.tick(from.offsetX);
    const move = (at: At) => {
      const tick = this.view.tick(at.offsetX);
      if (place === 'inside') {
        const begin = Math.max(0, this.nearestLine(before.from + tick - start));
        this.player.loop.set({ from: begin, to: begin + before.to - before.from });
        return;
      }
      const fixed = place === 'edge' ? (edge === 'from' ? before.to : before.from) : this.nearestLine(start);
      const other = this.nearestLine(tick);
      this.player.loop.set({ from: Math.min(fixed, other), to: Math.max(fixed, other) });
    };
    return {
      kind: 'loop',
      scrolls: 'sideways',
      move,
      drop: (at) => {
        move(at);
        const { from: a, to: b } = this.player.loop();
        this.player.loopOn.set(b > a && (wasOn || place === 'outside'));
      },
      cancel: () => this.player.loop.set(before),
    };
  }

  /** Loops snap to the beat, or closer in to the lines that are drawn, swung ones too. */
  private nearestLine(tick: number): number {
    const { ppq } = this.scenery.song();
    const at = Math.max(0, tick);
    return ppq * this.view.scale() < 120
      ? Math.round(at / ppq) * ppq
      : Math.round(this.scenery.picture().lines.nearest(at));
  }
}
