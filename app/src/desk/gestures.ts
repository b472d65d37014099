import { inject, Injectable, signal, type Signal } from '@angular/core';
import { stepTicks, SWING_MAX, SWING_MIN } from '@early-sparrow/core/grid';
import { meterOf, type Song } from '@early-sparrow/core/song';
import { Player } from '../sound/player';
import { laneBands, laneReach, laneY } from './draw-lane';
import { noteAt, type Picture } from './picture';
import { Selecting } from './selecting';
import { Treating } from './treating';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from './viewport';

/** What the pointer is doing since it was pressed. */
export interface Drag {
  readonly x: number;
  readonly y: number;
  readonly kind: 'ruler' | 'swing' | 'scroll' | 'box' | 'note' | 'tolerance' | 'reach';
  /** The note or chord under the pointer; −1 for none. */
  readonly note: number;
  lastX: number;
  lastY: number;
  moved: boolean;
}

/** A note that is dropped this close to a line goes onto it; with Ctrl or ⌘ it does not. */
const SNAP_PX = 7;

/** What gestures look at: the picture that is drawn, and which side of it. */
export interface Scenery {
  readonly song: Signal<Song>;
  readonly picture: Signal<Picture>;
  readonly corrected: Signal<boolean>;
}

/** What pressing and dragging in the roll, the ruler and the lane does. */
@Injectable()
export class Gestures {
  private readonly view = inject(Viewport);
  private readonly player = inject(Player);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  /** The rectangle that is being drawn over notes, in px. */
  readonly box = signal<{ x: number; y: number; w: number; h: number } | null>(null);
  private scenery: Scenery | null = null;
  private offBeatStart: number | null = null;

  attach(scenery: Scenery): void {
    this.scenery = scenery;
  }

  private get seen(): Scenery {
    if (!this.scenery) throw new Error('Gestures need a picture first.');
    return this.scenery;
  }

  private picture(): Picture {
    return this.seen.picture();
  }

  private song(): Song {
    return this.seen.song();
  }

  private corrected(): boolean {
    return this.seen.corrected();
  }

  dragKind(event: PointerEvent, note: number): Drag['kind'] {
    const { offsetX: x, offsetY: y } = event;
    if (y < RULER_HEIGHT) return this.offBeatUnder(x) !== null ? 'swing' : 'ruler';
    if (event.button === 1 || event.altKey || x < KEYS_WIDTH) return 'scroll';
    if (note >= 0) return 'note';
    return this.bandUnder(y) ?? 'box';
  }

  /** The band edge under a height in the lane. */
  private bandUnder(y: number): 'tolerance' | 'reach' | null {
    if (y < this.view.laneTop()) return null;
    const picture = this.picture();
    const { tolerance, reach } = laneBands(picture);
    const near = (ms: number | null) =>
      ms !== null && [-ms, ms].some((edge) => Math.abs(laneY({ view: this.view }, picture, edge) - y) < 5);
    return near(tolerance) ? 'tolerance' : near(reach) ? 'reach' : null;
  }

  /** An off-beat line of the grid under a place in the ruler, which can be dragged to swing. */
  private offBeatUnder(x: number): number | null {
    const { grid, groove } = this.picture().part.treatment.quantize;
    if (groove || typeof grid.shape !== 'string' || x < KEYS_WIDTH) return null;
    const line = this.picture().lines.nearest(Math.max(0, this.view.tick(x)));
    if (Math.abs(this.view.x(line) - x) > 5) return null;
    const bar = meterOf(this.song()).barStartAt(line + 0.5);
    const step = stepTicks(grid, this.song().ppq);
    const pair = Math.floor((line - bar) / (2 * step) + 1e-9) * 2 * step + bar;
    return line - pair > step * 0.4 ? pair : null;
  }

  dragTo(drag: Drag, event: PointerEvent, done: boolean): void {
    const { view } = this;
    switch (drag.kind) {
      case 'ruler': {
        const [a, b] = [view.tick(drag.x), view.tick(event.offsetX)].map((t) => this.nearestLine(t));
        this.player.loop.set({ from: Math.min(a, b), to: Math.max(a, b) });
        if (done) this.player.loopOn.set(this.player.loop().to > this.player.loop().from);
        break;
      }
      case 'swing':
        this.dragSwing(drag, event, done);
        break;
      case 'scroll':
        view.scroll(drag.lastX - event.offsetX, drag.y < view.laneTop() ? drag.lastY - event.offsetY : 0);
        break;
      case 'box': {
        const [x, y] = [Math.min(drag.x, event.offsetX), Math.min(drag.y, event.offsetY)];
        const box = { x, y, w: Math.abs(event.offsetX - drag.x), h: Math.abs(event.offsetY - drag.y) };
        this.box.set(done ? null : box);
        if (done) this.selecting.select(this.notesIn(box, drag.y >= view.laneTop()));
        break;
      }
      case 'note':
        if (done) this.selecting.move(this.dragged(drag), this.dropped(drag, event));
        break;
      case 'tolerance':
      case 'reach':
        this.dragBand(drag.kind, event.offsetY, done);
    }
  }

  private dragSwing(drag: Drag, event: PointerEvent, done: boolean): void {
    const pair = this.offBeatStart ?? (this.offBeatStart = this.offBeatUnder(drag.x));
    const { grid } = this.picture().part.treatment.quantize;
    if (pair === null) return;
    const step = stepTicks(grid, this.song().ppq);
    const wanted = (this.view.tick(event.offsetX) - pair) / (2 * step);
    const swing = Math.round(Math.min(SWING_MAX, Math.max(SWING_MIN, wanted)) * 200) / 200;
    const change = { quantize: { grid: { ...grid, swing } } };
    if (done) {
      this.offBeatStart = null;
      this.treating.commit('Swing', change);
    } else this.treating.try('Swing', change);
  }

  private dragBand(kind: 'tolerance' | 'reach', y: number, done: boolean): void {
    const { view } = this;
    const half = view.laneHeight() / 2 - 12;
    const ms = Math.abs(((y - view.laneTop() - view.laneHeight() / 2) / half) * laneReach(this.picture()));
    const value = Math.max(0, Math.round(ms * 2) / 2);
    const change = { quantize: { [kind]: { value, unit: 'ms' as const } } };
    const name = kind === 'tolerance' ? 'Tolerance' : 'Reach';
    if (done) this.treating.commit(name, change);
    else this.treating.try(name, change);
  }

  /** How far a drop moves the notes, in ticks: onto a line that is drawn, where one is near, swung or lifted ones too. */
  private dropped(drag: Drag, event: PointerEvent): number {
    const picture = this.picture();
    const start = (this.corrected() ? picture.corrected : picture.played)[drag.note];
    const wanted = Math.max(0, start + (event.offsetX - drag.x) / this.view.scale());
    const line = picture.lines.nearest(wanted);
    const snaps = !event.ctrlKey && !event.metaKey && Math.abs(line - wanted) * this.view.scale() <= SNAP_PX;
    return (snaps ? Math.round(line) : wanted) - start;
  }

  /** The notes that a drag moves: the selection if the note is in it, else the note; in the lane its whole chord. */
  private dragged(drag: Drag): number[] {
    const { notes } = this.picture().part;
    const { id } = notes[drag.note];
    if (this.selecting.ids().includes(id)) return [...this.selecting.ids()];
    if (drag.y < this.view.laneTop()) return [id];
    const picture = this.picture();
    const near = this.song().ppq / 16;
    return notes
      .filter(
        (_, i) =>
          picture.line[i] === picture.line[drag.note] && Math.abs(picture.played[i] - picture.played[drag.note]) < near,
      )
      .map((n) => n.id);
  }

  private notesIn(box: { x: number; y: number; w: number; h: number }, lane: boolean): number[] {
    const { view } = this;
    const picture = this.picture();
    const { notes } = this.picture().part;
    const starts = this.corrected() ? picture.corrected : picture.played;
    const offsets = this.corrected() ? picture.after : picture.before;
    const inside = (x: number, y: number, slack: number) =>
      x >= box.x - slack && x <= box.x + box.w && y >= box.y - slack && y <= box.y + box.h;
    return notes
      .filter((_, i) =>
        lane
          ? inside(view.x(starts[i]), laneY({ view }, picture, offsets[i]), 0) ||
            inside(view.x(picture.played[i]), laneY({ view }, picture, picture.before[i]), 0)
          : inside(view.x(starts[i]), view.y(picture.pitch[i]) + view.rowHeight() / 2, view.rowHeight() / 2),
      )
      .map((n) => n.id);
  }

  /** A key at the left selects all its notes: one drum of a kit. */
  selectKey(y: number): void {
    if (y >= this.view.laneTop()) return;
    const pitch = this.view.pitch(y);
    this.selecting.select(
      this.picture()
        .part.notes.filter((n) => n.pitch === pitch)
        .map((n) => n.id),
    );
  }

  /** Loops snap to the beat, or closer in to the lines that are drawn, swung ones too. */
  private nearestLine(tick: number): number {
    const { ppq } = this.song();
    const at = Math.max(0, tick);
    return ppq * this.view.scale() < 120 ? Math.round(at / ppq) * ppq : Math.round(this.picture().lines.nearest(at));
  }

  noteUnder(x: number, y: number): number {
    const { view } = this;
    const picture = this.picture();
    if (x < KEYS_WIDTH) return -1;
    if (y < view.laneTop()) {
      if (y < RULER_HEIGHT) return -1;
      return noteAt(picture, this.corrected(), view.tick(x), view.pitch(y), 2 / view.scale());
    }
    return this.chordMarkUnder(x, y);
  }

  private chordMarkUnder(x: number, y: number): number {
    const { view } = this;
    const picture = this.picture();
    let best = -1;
    let nearest = 9;
    for (const chord of picture.chords) {
      const places = [[chord.played, chord.before]];
      if (this.corrected()) places.push([chord.corrected, chord.after]);
      for (const [tick, ms] of places) {
        const away = Math.hypot(view.x(tick) - x, laneY({ view }, picture, ms) - y);
        if (away < nearest) [best, nearest] = [chord.note, away];
      }
    }
    return best;
  }
}
