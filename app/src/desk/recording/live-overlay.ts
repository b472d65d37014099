import { effect, inject, Injectable } from '@angular/core';
import { Player } from '../../sound/player';
import type { Scene } from '../kit/draw';
import type { Overlay } from '../kit/overlay';
import { Viewport } from '../kit/viewport';
import { drawLive } from './draw-live';
import { Recorder } from './recorder';

/** What is being recorded, over the notes; a key outside of the rows in view brings its row into view. */
@Injectable()
export class LiveOverlay implements Overlay {
  private readonly recorder = inject(Recorder);
  private readonly player = inject(Player);
  private readonly view = inject(Viewport);

  constructor() {
    effect(() => {
      const last = this.recorder.live().notes.at(-1);
      if (last) this.view.reveal(last.pitch);
    });
  }

  draw(scene: Scene): void {
    drawLive(scene, this.recorder.live(), this.player.position());
  }

  depends(): void {
    // What is held grows with the playhead.
    if (this.recorder.recording()) void [this.recorder.live(), this.player.position()];
    else this.recorder.live();
  }
}
