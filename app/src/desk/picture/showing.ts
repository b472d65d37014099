import { inject, Injectable } from '@angular/core';
import { songEnd } from '@early-sparrow/core/song';
import { Said } from '../../common/said';
import { Player, type Span } from '../../sound/player';
import { Looping } from '../listening/looping';
import { pictureOf } from '../hand/picture';
import { Treating } from '../hand/treating';
import { Viewport } from '../kit/viewport';

/** Brings a stretch of the song into view: everything, the selection, or the loop. */
@Injectable()
export class Showing {
  private readonly view = inject(Viewport);
  private readonly treating = inject(Treating);
  private readonly player = inject(Player);
  private readonly looping = inject(Looping);
  private readonly said = inject(Said);

  everything(): void {
    const song = this.treating.song();
    const part = this.treating.part();
    if (!song || !part) return;
    this.view.fitWhole(0, songEnd(song));
    const { lowest, highest } = pictureOf(part, song);
    this.view.fitPitches(this.view.pitches(), lowest, highest, 20);
  }

  selection(): void {
    const span = this.looping.selectedSpan();
    if (span) this.fit(span);
    else this.said.say('No notes are selected. Drag over some first.');
  }

  loop(): void {
    const span = this.player.loop();
    if (span.to > span.from) this.fit(span);
    else this.said.say('There is no loop yet. Drag in the strip above the bars.');
  }

  /** With a little room on both sides. */
  private fit({ from, to }: Span): void {
    const room = (to - from) * 0.04;
    this.view.fitTime(Math.max(0, from - room), to + room);
  }
}
