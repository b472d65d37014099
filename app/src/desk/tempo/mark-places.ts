import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { firstAt } from '@early-sparrow/core/maths';
import type { Song } from '@early-sparrow/core/song';
import { deskFeature } from '../../state/desk.feature';
import { TEXT_FONT } from '../kit/draw';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import { marksOf, markText, type Mark } from './marks';

/** A mark in the ruler, in px. */
export interface SeenMark {
  readonly mark: Mark;
  readonly text: string;
  /** Where it is in the song, and where its text begins: behind others of the same place. */
  readonly x: number;
  readonly left: number;
  /** 0 where there is no room for its text: a dot at the foot of the row tells that it is there. */
  readonly width: number;
}

export const MARK_FONT = `11.5px ${TEXT_FONT}`;
const GAP = 12;
/** A long name is cut at this width, in px. */
const WIDEST = 180;

/** Which marks the ruler shows, and where. */
@Injectable()
export class MarkPlaces {
  private readonly view = inject(Viewport);
  private readonly song = inject(Store).selectSignal(deskFeature.selectShownSong);
  /** The song as far as its marks need it: a note that is dragged or tried changes nothing here. */
  private readonly marked = computed(() => this.song(), { equal: sameMarks });
  readonly marks = computed(() => {
    const song = this.marked();
    return song ? marksOf(song) : [];
  });
  private readonly places = computed(() => Float64Array.from(this.marks(), (m) => m.at));
  private readonly widths = new Map<string, number>();
  private readonly sheet = document.createElement('canvas').getContext('2d');

  /** The marks in view, from the left. */
  readonly seen = computed((): SeenMark[] => {
    const [from, to] = [this.view.left() - WIDEST / this.view.scale(), this.view.right()];
    const found: SeenMark[] = [];
    let end = -Infinity;
    let at = -1;
    const marks = this.marks();
    for (let i = firstAt(this.places(), from); i < marks.length && marks[i].at <= to; i++) {
      const mark = marks[i];
      const x = this.view.x(mark.at);
      const text = markText(mark);
      const room = x >= end || mark.at === at;
      const left = mark.at === at ? Math.max(end, x + 4) : x + 4;
      const width = room ? Math.min(WIDEST, this.widthOf(text)) : 0;
      found.push({ mark, text, x, left, width });
      if (!room) continue;
      end = left + width + GAP;
      ({ at } = mark);
    }
    return found;
  });

  /** The mark at a place of the ruler; the one whose text is there before one that is only near. */
  under(x: number): SeenMark | null {
    if (x < KEYS_WIDTH) return null;
    const all = this.seen();
    return (
      all.findLast((m) => m.width > 0 && x >= m.left - 4 && x <= m.left + m.width + 2) ??
      all.find((m) => Math.abs(m.x - x) <= 4) ??
      null
    );
  }

  private widthOf(text: string): number {
    let width = this.widths.get(text);
    if (width === undefined && this.sheet) {
      this.sheet.font = MARK_FONT;
      this.widths.set(text, (width = this.sheet.measureText(text).width));
    }
    return width ?? text.length * 6;
  }
}

/** Whether two states of a song have the same marks, told by what they are made from. */
function sameMarks(a: Song | null, b: Song | null): boolean {
  if (!a || !b) return a === b;
  return (
    a.ppq === b.ppq &&
    a.tempo === b.tempo &&
    a.meter === b.meter &&
    a.markers === b.markers &&
    a.tracks.length === b.tracks.length &&
    a.tracks.every((t, i) => t.setup === b.tracks[i].setup && t.id === b.tracks[i].id)
  );
}
