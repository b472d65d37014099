import { inject } from '@angular/core';
import type { Shaped } from '@early-sparrow/core/shape';
import { firstAt } from '@early-sparrow/core/maths';
import type { Picture } from '../hand/picture';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping, type Hand } from '../hand/shaping';
import { Cells, DENSE, Tops } from '../kit/detail';
import { clipped, faint, NUMBER_FONT, type Scene } from '../kit/draw';
import { Feedback } from '../kit/feedback';
import type { Frame } from '../kit/frame';
import type { Lane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import type { At, Box, Gesture, Under } from '../kit/pointer';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import { LANE_HEAD } from '../picture/draw-lane';
import { NoteGesture } from '../picture/note-gesture';
import { notesInView } from '../picture/draw-notes';

/** A line of a lane's scale, as a share of its height. */
export interface ScaleLine {
  readonly at: number;
  readonly text: string;
}

/** A stem is under the pointer if its head is this close, in px. */
const HEAD_PX = 8;
/** A lane that is lower has no scale: there is no room for its numbers; in px. */
const LOW = 56;
/** Between the lane's edges and its scale, in px. */
const ROOM = 6;

/**
 * A lane with a stem for each note, as played hollow and corrected solid: a stem is dragged with all that is selected,
 * and beside the heads the pointer draws the values of the notes that it comes by; with Shift on a straight line.
 */
export abstract class StemLane implements Lane {
  abstract readonly id: string;
  abstract readonly name: string;
  abstract readonly order: number;
  protected readonly view = inject(Viewport);
  protected readonly scenery = inject(Scenery);
  protected readonly shaping = inject(Shaping);
  protected readonly book = inject(LaneBook);
  private readonly selecting = inject(Selecting);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);

  /** Values at which the scale has a line, with what is written there. */
  protected abstract scale(): readonly ScaleLine[];
  /** A note's value as played and as it is now, as a share of the lane's height. */
  protected abstract played(picture: Picture, index: number): number;
  protected abstract now(picture: Picture, index: number): number;
  /** A drag of notes from one share of the height to another. @param at says how the pointer is held */
  protected abstract dragged(hand: Hand, note: SeenNote, from: number, to: number, at: At): Shaped;
  /** Values that are drawn, as shares of the height, by the notes' ids. */
  protected abstract drawn(hand: Hand, shares: ReadonlyMap<number, number>, at: At): Shaped;
  /** A share of the height in words. */
  protected abstract tell(share: number, tick: number): string;

  height(): number {
    return this.book.heightOf(this.id);
  }

  looks(): readonly unknown[] {
    return [this.scenery.picture(), ...this.scenery.others(), this.scenery.corrected(), this.selecting.ids()];
  }

  draw(scene: Scene, frame: Frame): void {
    const { ctx, view, colors } = scene;
    ctx.fillStyle = faint(colors.raised, 0.5);
    ctx.fillRect(0, frame.top + 1, view.width(), frame.height);
    ctx.fillStyle = colors.line;
    ctx.fillRect(0, frame.top, view.width(), 1);
    ctx.font = `11px ${NUMBER_FONT}`;
    ctx.textAlign = 'right';
    ctx.textBaseline = 'middle';
    for (const { at, text } of frame.height < LOW ? [] : this.scale()) {
      const y = Math.round(this.y(frame, at)) + 0.5;
      ctx.fillStyle = faint(colors.line, 0.8);
      ctx.fillRect(KEYS_WIDTH, y - 0.5, view.notesWidth(), 1);
      ctx.fillStyle = colors.soft;
      ctx.fillText(text, KEYS_WIDTH - 6, Math.min(y, frame.top + frame.height - 7));
    }
    clipped(ctx, KEYS_WIDTH, frame.top, view.notesWidth(), frame.height, () => {
      ctx.globalAlpha = 0.5;
      for (const other of this.scenery.others()) this.drawStems(scene, frame, other);
      ctx.globalAlpha = 1;
      this.drawStems(scene, frame, this.scenery.picture());
    });
  }

  private drawStems(scene: Scene, frame: Frame, picture: Picture): void {
    const { ctx, view, colors } = scene;
    const corrected = this.scenery.corrected();
    const starts = corrected ? picture.now : picture.played;
    const chosen = this.selecting.chosen();
    const [first, behind] = notesInView(view, picture);
    if (behind - first > DENSE) return this.drawManyStems(scene, frame, picture);
    const foot = this.y(frame, 0);
    for (const selected of [false, true]) {
      ctx.fillStyle = selected ? colors.action : colors.soft;
      ctx.strokeStyle = ctx.fillStyle;
      ctx.beginPath();
      const hollow = new Path2D();
      const [heads, before] = [new Cells(view.width(), view.height()), new Cells(view.width(), view.height())];
      for (let i = first; i < behind; i++) {
        if (chosen.has(picture.part.notes[i].id) !== selected || picture.muted[i]) continue;
        const x = view.x(starts[i]);
        const was = this.y(frame, this.played(picture, i));
        const y = corrected ? this.y(frame, this.now(picture, i)) : was;
        if (heads.first(x, y)) {
          ctx.fillRect(x - 0.75, y, 1.5, Math.max(0, foot - y));
          ctx.moveTo(x + 3.5, y);
          ctx.arc(x, y, 3.5, 0, 2 * Math.PI);
        }
        if (Math.abs(was - y) < 1 || !before.first(x, was)) continue;
        hollow.moveTo(x + 3.5, was);
        hollow.arc(x, was, 3.5, 0, 2 * Math.PI);
      }
      ctx.fill();
      ctx.stroke(hollow);
    }
  }

  /** The same where several stems stand in a pixel: the tallest of each is drawn, and heads that touch as one bar. */
  private drawManyStems({ ctx, view, colors }: Scene, frame: Frame, picture: Picture): void {
    const corrected = this.scenery.corrected();
    const starts = corrected ? picture.now : picture.played;
    const chosen = this.selecting.chosen();
    const [first, behind] = notesInView(view, picture);
    const [width, height] = [view.width(), view.height()];
    const [foot, head] = [this.y(frame, 0), this.y(frame, 1)];
    const y = (share: number) => foot + (head - foot) * (share < 0 ? 0 : share > 1 ? 1 : share);
    const { id } = picture.treated.columns;
    const x = view.across();
    const kinds = [colors.soft, colors.action].map((color) => ({
      color,
      tops: new Tops(width),
      heads: new Cells(width, height),
      before: new Cells(width, height),
    }));
    for (let i = first; i < behind; i++) {
      if (picture.muted[i]) continue;
      const { tops, heads, before } = kinds[chosen.has(id[i]) ? 1 : 0];
      const at = x(starts[i]);
      const was = y(this.played(picture, i));
      const is = corrected ? y(this.now(picture, i)) : was;
      tops.add(at, is);
      heads.first(at, is);
      if (Math.abs(was - is) >= 1) before.first(at, was);
    }
    const alpha = ctx.globalAlpha;
    for (const { color, tops, heads, before } of kinds) {
      ctx.fillStyle = color;
      tops.each((left, top) => ctx.fillRect(left, top, 1.5, Math.max(0, foot - top)));
      heads.bars((left, top, w, h) => ctx.fillRect(left, top, w, h));
      ctx.globalAlpha = alpha * 0.4;
      before.bars((left, top, w, h) => ctx.fillRect(left, top, w, h));
      ctx.globalAlpha = alpha;
    }
  }

  under(at: At, frame: Frame): Under | null {
    if (at.offsetX < KEYS_WIDTH) return null;
    const note = this.headUnder(at, frame);
    if (!note) return { cursor: 'crosshair', press: (from) => this.sweep(from, frame) };
    return {
      cursor: 'ns-resize',
      note: note.id,
      hint: this.tell(this.shareOf(note), this.scenery.placeOf(note).start),
      press: (from) => this.drag(note, from, frame),
      click: (to) => this.notes.click(note, to),
    };
  }

  inside(box: Box, frame: Frame): readonly number[] {
    return this.scenery.pictures().flatMap((picture) =>
      picture.part.notes
        .filter((_, index) => {
          const note = { picture, index, id: 0 };
          const [x, y] = [this.view.x(this.scenery.placeOf(note).start), this.y(frame, this.shareOf(note))];
          return x >= box.x && x <= box.x + box.w && y >= box.y && y <= box.y + box.h;
        })
        .map((n) => n.id),
    );
  }

  private shareOf({ picture, index }: SeenNote): number {
    return this.scenery.corrected() ? this.now(picture, index) : this.played(picture, index);
  }

  /** Height of a share of the scale. */
  private y({ top, height }: Frame, share: number): number {
    const room = height - LANE_HEAD - 2 * ROOM;
    return top + LANE_HEAD + ROOM + (1 - Math.max(0, Math.min(1, share))) * Math.max(1, room);
  }

  private share({ top, height }: Frame, y: number): number {
    const room = Math.max(1, height - LANE_HEAD - 2 * ROOM);
    return Math.max(0, Math.min(1, 1 - (y - top - LANE_HEAD - ROOM) / room));
  }

  private headUnder({ offsetX: x, offsetY: y }: At, frame: Frame): SeenNote | null {
    let best: SeenNote | null = null;
    let nearest = HEAD_PX;
    for (const picture of this.scenery.pictures()) {
      const [first, behind] = notesInView(this.view, picture);
      for (let index = first; index < behind; index++) {
        const note = { picture, index, id: picture.part.notes[index].id };
        const dx = this.view.x(this.scenery.placeOf(note).start) - x;
        if (Math.abs(dx) > HEAD_PX) continue;
        const away = Math.hypot(dx, this.y(frame, this.shareOf(note)) - y);
        if (away < nearest) [best, nearest] = [note, away];
      }
    }
    return best;
  }

  private drag(note: SeenNote, from: At, frame: Frame): Gesture {
    const hand = this.shaping.hand(this.notes.pressed(note));
    const begin = this.shareOf(note);
    const { start } = this.scenery.placeOf(note);
    const change = (at: At): Shaped => {
      const to = Math.max(0, Math.min(1, begin + this.share(frame, at.offsetY) - this.share(frame, from.offsetY)));
      this.feedback.hint.set(this.tell(to, start));
      return hand && this.dragged(hand, note, begin, to, at);
    };
    return this.shaping.changing('lane drag', change);
  }

  /** The notes that the pointer comes by get the height where it is; those that are selected only, if any are. */
  private sweep(from: At, frame: Frame): Gesture {
    const chosen = this.selecting.chosen();
    const shares = new Map<number, number>();
    const hand = this.shaping.hand(
      chosen.size > 0 ? this.selecting.ids() : this.scenery.pictures().flatMap((p) => p.part.notes.map((n) => n.id)),
    );
    let before = from;
    const along = (a: At, b: At) => {
      const [x0, x1] = [Math.min(a.offsetX, b.offsetX), Math.max(a.offsetX, b.offsetX)];
      const [s0, s1] = [this.share(frame, a.offsetY), this.share(frame, b.offsetY)];
      for (const picture of this.scenery.pictures()) {
        const starts = this.scenery.corrected() ? picture.now : picture.played;
        const begin = firstAt(picture.own, this.view.tick(x0) - picture.margin - 4 / this.view.scale());
        for (let i = begin; i < picture.count; i++) {
          if (picture.own[i] > this.view.tick(x1) + picture.margin + 4 / this.view.scale()) break;
          const x = this.view.x(starts[i]);
          const { id } = picture.part.notes[i];
          if (x < x0 - 4 || x > x1 + 4 || (chosen.size > 0 && !chosen.has(id))) continue;
          const share = a.offsetX === b.offsetX ? 1 : (x - a.offsetX) / (b.offsetX - a.offsetX);
          shares.set(id, s0 + (s1 - s0) * Math.max(0, Math.min(1, share)));
        }
      }
    };
    const change = (at: At): Shaped => {
      if (at.shiftKey) {
        shares.clear();
        along(from, at);
      } else along(before, at);
      before = at;
      this.feedback.hint.set(this.tell(this.share(frame, at.offsetY), this.view.tick(at.offsetX)));
      return hand && shares.size > 0 ? this.drawn(hand, shares, at) : null;
    };
    return this.shaping.changing('lane sweep', change);
  }
}
