import { inject, Injectable } from '@angular/core';
import { tempoOf } from '@early-sparrow/core/song';
import type { Picture } from '../hand/picture';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';
import type { Scene } from '../kit/draw';
import type { Frame } from '../kit/frame';
import { Feedback } from '../kit/feedback';
import type { Lane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import type { At, Box, Gesture, Under } from '../kit/pointer';
import { Viewport } from '../kit/viewport';
import { chordsBetween, drawLane, laneBands, laneMs, laneY, OFFSET } from './draw-lane';
import { NoteGesture, type Drag } from './note-gesture';
import { OffsetHead } from './offset-head';

/** A mark is under the pointer if it is this close, an edge of a band if it is that close; in px. */
const MARK_PX = 9;
const EDGE_PX = 5;

/** Where each chord lies against its line, in ms: early above, late below. */
@Injectable()
export class OffsetLane implements Lane {
  readonly id = OFFSET;
  readonly name = 'Offset from the lines';
  readonly order = 10;
  readonly head = OffsetHead;
  private readonly view = inject(Viewport);
  private readonly book = inject(LaneBook);
  private readonly scenery = inject(Scenery);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);

  constructor() {
    // The roll keeps most of what there is, however little that is.
    this.book.add({ id: this.id, usual: (picture) => Math.max(64, Math.min(220, picture * 0.36)) });
  }

  height(): number {
    return this.book.heightOf(this.id);
  }

  draw(scene: Scene, frame: Frame): void {
    const picture = this.scenery.picture();
    drawLane(scene, frame, picture, this.scenery.corrected(), laneBands(picture, this.scenery.treatment()));
  }

  /** Chords alone: velocities and lengths may change without it. */
  looks(): readonly unknown[] {
    const { chords, margin, msPerTick, halfGapMs } = this.scenery.picture();
    return [chords, margin, msPerTick, halfGapMs, this.scenery.corrected(), this.scenery.treatment()];
  }

  under(at: At, frame: Frame): Under | null {
    const note = this.markUnder(at, frame);
    if (note >= 0) {
      const press = (from: At) => this.drag(note, from, frame);
      const seen = this.seen(note);
      return { cursor: 'move', note: seen.id, press, click: (to) => this.notes.click(seen, to) };
    }
    const band = this.bandUnder(at.offsetY, frame);
    return band && { cursor: 'ns-resize', press: () => this.band(band, frame) };
  }

  inside(box: Box, frame: Frame): readonly number[] {
    const { view } = this;
    const picture = this.scenery.picture();
    const corrected = this.scenery.corrected();
    const starts = corrected ? picture.now : picture.played;
    const offsets = corrected ? picture.after : picture.before;
    const isIn = (tick: number, ms: number) => {
      const [x, y] = [view.x(tick), laneY(frame, picture, ms)];
      return x >= box.x && x <= box.x + box.w && y >= box.y && y <= box.y + box.h;
    };
    return picture.part.notes
      .filter((_, i) => isIn(starts[i], offsets[i]) || isIn(picture.played[i], picture.before[i]))
      .map((n) => n.id);
  }

  private seen(index: number): SeenNote {
    const picture = this.scenery.picture();
    return { picture, index, id: picture.part.notes[index].id };
  }

  /** The first note of the chord whose mark is under a place; −1 for none. */
  private markUnder({ offsetX: x, offsetY: y }: At, frame: Frame): number {
    const { view } = this;
    const picture = this.scenery.picture();
    const { chords } = picture;
    let best = -1;
    let nearest = MARK_PX;
    const look = (c: number, tick: number, ms: number) => {
      const away = Math.hypot(view.x(tick) - x, laneY(frame, picture, ms) - y);
      if (away < nearest) [best, nearest] = [chords.notes[chords.first[c]], away];
    };
    const { from, to } = chordsBetween(view, picture, view.tick(x - MARK_PX), view.tick(x + MARK_PX));
    for (let c = from; c < to; c++) {
      look(c, chords.played[c], chords.before[c]);
      if (this.scenery.corrected()) look(c, chords.now[c], chords.after[c]);
    }
    return best;
  }

  /** The band edge under a height. */
  private bandUnder(y: number, frame: Frame): 'tolerance' | 'reach' | null {
    const picture = this.scenery.picture();
    const { tolerance, reach } = laneBands(picture, this.scenery.treatment());
    const near = (ms: number | null) =>
      ms !== null && [-ms, ms].some((edge) => Math.abs(laneY(frame, picture, edge) - y) < EDGE_PX);
    return near(tolerance) ? 'tolerance' : near(reach) ? 'reach' : null;
  }

  private band(kind: 'tolerance' | 'reach', frame: Frame): Gesture {
    const name = kind === 'tolerance' ? 'Tolerance' : 'Reach';
    const change = (at: At) => {
      const ms = Math.abs(laneMs(frame, this.scenery.picture(), at.offsetY));
      const value = Math.max(0, Math.round(ms * 2) / 2);
      this.feedback.hint.set(`${name.toLowerCase()} ${value}\u00a0ms`);
      return { quantize: { [kind]: { value, unit: 'ms' as const } } };
    };
    return {
      kind,
      move: (at) => this.treating.try(name, change(at)),
      drop: (at) => this.treating.commit(name, change(at)),
      cancel: () => this.treating.endTrying(),
    };
  }

  /** A mark goes along the lane's scale with its whole chord; sideways it moves as in the roll. */
  private drag(note: number, from: At, frame: Frame): Gesture {
    const seen: Drag = { picture: this.scenery.picture(), corrected: this.scenery.corrected(), note };
    let upright: boolean | null = null;
    const told = (at: At) => {
      const [dx, dy] = [at.offsetX - from.offsetX, at.offsetY - from.offsetY];
      upright ??= Math.abs(dy) > Math.abs(dx);
      return { ticks: upright ? this.toOffset(seen, dy, at, frame) : this.notes.toPlace(seen, dx, at), rows: 0 };
    };
    return this.notes.moving(this.chordOf(seen.picture, note), seen, told, false);
  }

  /** The notes that a drag moves: the selection if the note is in it, else its whole chord. */
  private chordOf(picture: Picture, note: number): readonly number[] {
    const { notes } = picture.part;
    if (this.selecting.ids().includes(notes[note].id)) return [...this.selecting.ids()];
    const { chord, chords } = picture;
    const members = chords.notes.subarray(chords.first[chord[note]], chords.first[chord[note] + 1]);
    return Array.from(members, (i) => notes[i].id);
  }

  /** How far a drop up or down moves them, in ticks: by the lane's ms, onto the line where it is near. */
  private toOffset({ picture, corrected, note }: Drag, dy: number, at: At, frame: Frame): number {
    const start = (corrected ? picture.now : picture.played)[note];
    const was = (corrected ? picture.after : picture.before)[note];
    const perPx = laneMs(frame, picture, 1) - laneMs(frame, picture, 0);
    const wanted = was + dy * perPx;
    const snaps = !at.ctrlKey && !at.metaKey && Math.abs(wanted) <= Math.abs(4 * perPx);
    const ms = snaps ? 0 : wanted;
    return Math.round(tempoOf(this.scenery.song()).shift(picture.line[note], ms) - start);
  }
}
