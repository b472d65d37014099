import { inject, Injectable } from '@angular/core';
import type { Scene } from '../kit/draw';
import type { Frame } from '../kit/frame';
import type { Lane } from '../kit/lane';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import type { At, Under } from '../kit/pointer';
import { drawWaves } from './draw-wave';
import { Hits } from './hits';

/** A hit is under the pointer if it is this close, in px. */
const HIT_PX = 6;
/** Shares of the picture's height, in px. */
const LEAST = 36;
const MOST = 72;
const SHARE = 0.14;

/** The sound files that play along, with their hits, under the lines of the current part. */
@Injectable()
export class SoundLane implements Lane {
  readonly id = 'sound';
  readonly name = 'Sound file';
  readonly order = 0;
  private readonly view = inject(Viewport);
  private readonly hits = inject(Hits);

  height(): number {
    if (this.hits.waves().length === 0) return 0;
    return Math.round(Math.max(LEAST, Math.min(MOST, this.view.height() * SHARE)));
  }

  draw(scene: Scene, frame: Frame): void {
    drawWaves(scene, frame, this.hits.waves());
  }

  looks(): readonly unknown[] {
    return [this.hits.waves()];
  }

  under({ offsetX }: At): Under | null {
    if (offsetX < KEYS_WIDTH) return null;
    const slack = HIT_PX / this.view.scale();
    const found = this.hits.under(this.view.tick(offsetX), slack);
    return {
      cursor: found ? 'pointer' : 'copy',
      hint: found ? 'Click selects this hit; Delete erases it' : 'Double-click adds a hit where the sound rises',
      click: (at) => this.hits.select(this.view.tick(at.offsetX), slack),
      double: (at) => this.hits.add(this.view.tick(at.offsetX)),
    };
  }

  inside(): readonly number[] {
    return [];
  }
}
