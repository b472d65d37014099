import { inject, Injectable } from '@angular/core';
import { isDrums } from '@early-sparrow/core/sound';
import { meterOf, songEnd } from '@early-sparrow/core/song';
import { lastEndOf } from '@early-sparrow/core/treatment';
import { Said } from '../../common/said';
import { Player, type Span } from '../../sound/player';
import { Looping } from '../listening/looping';
import { pictureOf } from '../hand/picture';
import { Scenery } from '../hand/scenery';
import { Treating } from '../hand/treating';
import { ALL_PITCHES, Viewport } from '../kit/viewport';

/** Bass drum to ride cymbal (General MIDI percussion key map, 35 to 59). */
const KIT: readonly number[] = Array.from({ length: 25 }, (_, i) => 35 + i);
/** A kit of fewer drums than this gets rows for all that it could have. */
const FEW_DRUMS = 3;

/** Brings a stretch of the song into view: everything, the selection, or the loop. */
@Injectable()
export class Showing {
  private readonly view = inject(Viewport);
  private readonly treating = inject(Treating);
  private readonly player = inject(Player);
  private readonly looping = inject(Looping);
  private readonly said = inject(Said);
  private readonly scenery = inject(Scenery);
  private allKeys = false;

  everything(): void {
    const song = this.treating.song();
    const part = this.treating.part();
    if (!song || !part) return;
    this.view.fitWhole(0, songEnd(song, lastEndOf));
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

  /** Gives every key of a kit a row, or only those that are played. */
  toggleKeys(): void {
    if (!isDrums(this.scenery.track())) {
      this.said.say('Only a kit hides the keys that are not played.');
      return;
    }
    this.allKeys = !this.allKeys;
    this.track(false);
  }

  /** Rows of a kit: what is played; where that is little, all that a kit has, so that it can be drawn. */
  private drumRows(used: readonly number[]): readonly number[] {
    if (!this.allKeys && used.length >= FEW_DRUMS) return used;
    return [...new Set([...KIT, ...used])].sort((a, b) => a - b);
  }

  /** The current track from its first notes on, a few bars wide. @param fresh whether nothing was shown before */
  track(fresh: boolean): void {
    const { view, scenery } = this;
    const pictures = scenery.pictures();
    const meter = meterOf(scenery.song());
    const used = [...new Set(pictures.flatMap((p) => [...new Set(p.pitch)]))].sort((a, b) => a - b);
    const drums = isDrums(scenery.track());
    const full = pictures.filter((p) => p.count > 0);
    const seen = full.length > 0 ? full : pictures;
    const rows = drums ? this.drumRows(used) : ALL_PITCHES;
    const lowest = drums ? rows[0] : Math.min(...seen.map((p) => p.lowest));
    const highest = drums ? rows[rows.length - 1] : Math.max(...seen.map((p) => p.highest));
    view.fitPitches(rows, lowest, highest, drums ? 32 : 20);
    const { start } = scenery.part();
    const begin = meter.barStartAt(Math.max(scenery.picture().own.at(0) ?? start, start));
    const [left, right] = [view.left(), view.right()];
    const bars = view.notesWidth() < 500 ? 1 : 2.5;
    if (fresh) view.fitTime(begin, begin + meter.pieceAt(begin).barTicks * bars);
    else if (full.length > 0 && !full.some((p) => p.own.some((t) => t >= left && t < right))) {
      view.scrollTo(begin - 12 / view.scale());
    }
  }

  /** With a little room on both sides. */
  private fit({ from, to }: Span): void {
    const room = (to - from) * 0.04;
    this.view.fitTime(Math.max(0, from - room), to + room);
  }
}
