import { inject } from '@angular/core';
import {
  addEvent,
  drawControl,
  eraseEvents,
  rangeOf,
  type Control,
  type Point,
  type Shaped,
} from '@early-sparrow/core/shape';
import type { Part, PartEvent } from '@early-sparrow/core/song';
import { countedFirst, withMinus } from '../../common/format';
import { Scenery } from '../hand/scenery';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { clipped, faint, NUMBER_FONT, type Scene } from '../kit/draw';
import { Feedback } from '../kit/feedback';
import type { Frame } from '../kit/frame';
import type { Lane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import { boxBetween, onTheWay, type At, type Gesture, type Under } from '../kit/pointer';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import { LANE_HEAD } from '../picture/draw-lane';
import { NoteGesture } from '../picture/note-gesture';
import { ControlHead } from './control-head';
import { spotsBetween, spotsOf, type Spots } from './control-spots';
import { Controls, type ControlKind } from './controls';
import { paintControl } from './paint-control';
import { Points } from './points';

/** A point is under the pointer if it is this close, in px. */
const POINT_PX = 8;
const ROOM = 6;
/** A lane that is lower has no scale: there is no room for its numbers; in px. */
const LOW = 64;
/** Drawn by hand there is a point for so many px. */
const PX_A_POINT = 4;

/** A row of a part's spots. */
interface Spot {
  readonly spots: Spots;
  readonly row: number;
}

/**
 * Events beside the notes, as played hollow and corrected solid: a point is dragged in time and value with all that are
 * selected, pressed twice it goes; beside the points the pointer draws, with Alt it selects, and a double press adds one.
 * In the pedal's lane a stroke is a pedal held.
 */
export abstract class ControlLane implements Lane {
  abstract readonly id: string;
  abstract readonly name: string;
  abstract readonly order: number;
  abstract readonly kind: ControlKind;
  readonly head = ControlHead;
  readonly framesByAlt = true;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);
  private readonly controls = inject(Controls);
  private readonly points = inject(Points);
  protected readonly book = inject(LaneBook);

  get headInputs(): Record<string, unknown> {
    return (this.inputs ??= { kind: this.kind });
  }
  private inputs: Record<string, unknown> | null = null;

  private get control(): Control {
    return this.controls.control(this.kind);
  }

  height(): number {
    return this.book.heightOf(this.id);
  }

  looks(): readonly unknown[] {
    const { controls, points, scenery } = this;
    const shown = [scenery.picture(), ...scenery.others(), scenery.track().parts, scenery.corrected()];
    return [...shown, controls.number(), controls.channel(), controls.owner(), points.chosen()];
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
    for (const { value, text } of frame.height < LOW ? [] : this.scale()) {
      const y = Math.round(this.y(frame, value)) + 0.5;
      ctx.fillStyle = faint(colors.line, 0.8);
      ctx.fillRect(KEYS_WIDTH, y - 0.5, view.notesWidth(), 1);
      ctx.fillStyle = colors.soft;
      ctx.fillText(text, KEYS_WIDTH - 6, y);
    }
    clipped(ctx, KEYS_WIDTH, frame.top, view.notesWidth(), frame.height, () => {
      for (const part of this.scenery.track().parts) {
        ctx.globalAlpha = part.id === this.scenery.part().id ? 1 : 0.5;
        this.drawPart(scene, frame, part);
      }
      ctx.globalAlpha = 1;
    });
  }

  private drawPart(scene: Scene, frame: Frame, part: Part): void {
    paintControl(scene, this.spotsOf(part), {
      y: (value) => this.y(frame, value),
      corrected: this.scenery.corrected(),
      note: this.controls.owner(),
      chosen: this.points.chosen(),
    });
  }

  under(at: At, frame: Frame): Under | null {
    if (at.offsetX < KEYS_WIDTH) return null;
    const found = this.pointUnder(at, frame);
    if (!found) {
      return {
        cursor: 'crosshair',
        press: (from) => (from.altKey ? this.frame(from, frame) : this.stroke(from, frame)),
        click: (to) => !to.shiftKey && this.points.drop(),
        double: (to) => this.make(this.added(to, frame), 'draw controller'),
      };
    }
    return {
      cursor: this.kind === 'pedal' ? 'ew-resize' : 'move',
      hint: this.tell(found.spots.value[found.row]),
      press: (from) => this.drag(found, from, frame),
      click: (to) => this.click(found, to),
      double: () => this.make(eraseEvents(found.spots.part, [found.spots.index[found.row]]), 'erase controller'),
    };
  }

  inside(): readonly number[] {
    return [];
  }

  /** A sweep that erases all points that the pointer comes by. */
  erasing(from: At, frame: Frame): Gesture {
    const gone = new Map<string, Set<number>>();
    let before = from;
    const count = () => [...gone.values()].reduce((sum, s) => sum + s.size, 0);
    const look = (at: At) => {
      const found = this.pointUnder(at, frame);
      if (!found) return;
      const { part, index } = found.spots;
      const set = gone.get(part.id) ?? new Set();
      gone.set(part.id, set.add(index[found.row]));
      this.feedback.hint.set(`${countedFirst(count(), 'point')} erased`);
    };
    const along = (to: At) => {
      for (const at of onTheWay(before, to, POINT_PX)) look(at);
      before = to;
    };
    look(from);
    const over = () => this.feedback.hint.set(null);
    return {
      kind: 'erase points',
      move: along,
      drop: (at) => {
        along(at);
        over();
        this.make(
          this.points.erased((part) => [...(gone.get(part.id) ?? [])]),
          'erase controller',
        );
      },
      cancel: over,
    };
  }

  private spotsOf(part: Part): Spots {
    const { track, song, corrected } = this.scenery;
    return spotsOf(track(), part, song(), this.control, corrected());
  }

  private pointUnder({ offsetX: x, offsetY: y }: At, frame: Frame): Spot | null {
    let best: Spot | null = null;
    let nearest = POINT_PX;
    for (const part of this.scenery.track().parts) {
      const spots = this.spotsOf(part);
      const [first, behind] = spotsBetween(spots, this.view.tick(x - POINT_PX), this.view.tick(x + POINT_PX));
      for (let row = first; row < behind; row++) {
        const away = Math.hypot(this.view.x(spots.own[row]) - x, this.y(frame, spots.value[row]) - y);
        if (away < nearest) [best, nearest] = [{ spots, row }, away];
      }
    }
    return best;
  }

  private eventOf({ spots: { part, index }, row }: Spot): PartEvent {
    return part.events[index[row]];
  }

  private click(spot: Spot, at: At): void {
    if (at.shiftKey || at.ctrlKey || at.metaKey) this.points.toggle(this.control, this.eventOf(spot));
    else this.points.select(this.control, [this.eventOf(spot)]);
  }

  /** Drags a point, and with it all that are selected if it is one of them. */
  private drag(spot: Spot, from: At, frame: Frame): Gesture {
    const picture = this.scenery.picture();
    const { part, own, index } = spot.spots;
    const start = own[spot.row];
    const before = this.points.held();
    if (!this.points.chosen().has(this.eventOf(spot))) this.points.select(this.control, [this.eventOf(spot)]);
    const chosen = this.points.places();
    const moving =
      chosen.length > 0 ? chosen : [{ part: this.real(part), places: new Map([[index[spot.row], start]]) }];
    const selected = this.points.held();
    const change = (at: At): Shaped => {
      const dx = at.offsetX - from.offsetX;
      const tick = Math.abs(dx) < 2 ? start : this.notes.snapped(picture, start + dx / this.view.scale(), at);
      const rise = this.kind === 'pedal' ? 0 : this.value(frame, at.offsetY) - this.value(frame, from.offsetY);
      this.feedback.hint.set(this.tell(spot.spots.value[spot.row] + rise));
      const { shaped, follow } = this.points.moved(moving, { ticks: tick - start, rise });
      selected();
      follow();
      return shaped;
    };
    const drag = this.shaping.changing('control', change, 'draw controller');
    return {
      ...drag,
      scrolls: 'sideways',
      cancel: () => {
        drag.cancel();
        before();
      },
    };
  }

  /** A frame that selects the points in it; with Shift besides those that are selected. */
  private frame(from: At, frame: Frame): Gesture {
    const area = (at: At) => boxBetween(from, at);
    return {
      kind: 'box',
      scrolls: 'sideways',
      move: (at) => this.feedback.box.set(area(at)),
      drop: (at) => {
        const { x, y, w, h } = area(at);
        const found = this.scenery.track().parts.flatMap((part) => {
          const spots = this.spotsOf(part);
          const [first, behind] = spotsBetween(spots, this.view.tick(x), this.view.tick(x + w));
          const events: PartEvent[] = [];
          for (let row = first; row < behind; row++) {
            const [px, py] = [this.view.x(spots.own[row]), this.y(frame, spots.value[row])];
            if (px >= x && px <= x + w && py >= y && py <= y + h) events.push(part.events[spots.index[row]]);
          }
          return events;
        });
        this.points.select(this.control, found, at.shiftKey);
      },
      cancel: () => undefined,
    };
  }

  /** Draws over a stretch of the current part: a pedal held, with Shift up; else the pointer's path, with Shift straight. */
  private stroke(from: At, frame: Frame): Gesture {
    const path = new Map<number, Point>();
    const at0 = { tick: this.tickAt(from), value: this.value(frame, from.offsetY) };
    let before = from;
    const along = (to: At) => {
      const count = Math.max(1, Math.ceil(Math.abs(to.offsetX - before.offsetX) / PX_A_POINT));
      for (let k = 1; k <= count; k++) {
        const share = k / count;
        const x = before.offsetX + (to.offsetX - before.offsetX) * share;
        const y = before.offsetY + (to.offsetY - before.offsetY) * share;
        const slot = Math.round((x - KEYS_WIDTH) / PX_A_POINT);
        path.set(slot, { tick: this.view.tick(x), value: this.value(frame, y) });
      }
      before = to;
    };
    return this.shaping.changing(
      'control',
      (to) => {
        const part = this.treating.part();
        if (!part) return null;
        const [a, b] = [at0.tick, this.tickAt(to)];
        const stretch = { from: Math.max(0, Math.min(a, b)), to: Math.max(a, b) };
        if (stretch.to - stretch.from < 1) return null;
        if (this.kind === 'pedal') {
          this.feedback.hint.set(to.shiftKey ? 'pedal up' : 'pedal held');
          return drawControl(part, this.control, stretch, [{ tick: stretch.from, value: to.shiftKey ? 0 : 127 }]);
        }
        const value = this.value(frame, to.offsetY);
        this.feedback.hint.set(this.tell(value));
        if (!to.shiftKey) {
          along(to);
          const points = [...path.values()].sort((p, q) => p.tick - q.tick);
          return drawControl(
            part,
            this.control,
            { from: points[0].tick, to: points[points.length - 1].tick + 1 },
            points,
          );
        }
        const count = Math.max(2, Math.ceil((Math.abs(b - a) * this.view.scale()) / PX_A_POINT));
        const straight = Array.from({ length: count + 1 }, (_, k): Point => {
          const share = k / count;
          return { tick: a + (b - a) * share, value: at0.value + (value - at0.value) * share };
        }).sort((p, q) => p.tick - q.tick);
        return drawControl(part, this.control, { from: stretch.from, to: stretch.to + 1 }, straight);
      },
      'draw controller',
    );
  }

  private added(at: At, frame: Frame): Shaped {
    const part = this.treating.part();
    if (!part) return null;
    const value = this.kind === 'pedal' ? 127 : this.value(frame, at.offsetY);
    return addEvent(part, this.control, { tick: this.tickAt(at), value });
  }

  private make(shaped: Shaped, how: string): void {
    this.shaping.make(shaped, how, {}, true);
  }

  /** A part without anything that is being tried. */
  private real(part: Part): Part {
    return this.treating.track()?.parts.find((p) => p.id === part.id) ?? part;
  }

  private tickAt(at: At): number {
    const tick = Math.max(0, this.view.tick(at.offsetX));
    return this.notes.snapped(this.scenery.picture(), tick, at);
  }

  private scale(): readonly { readonly value: number; readonly text: string }[] {
    if (this.kind === 'pedal') return [];
    const [least, most] = rangeOf(this.control);
    const middle = least < 0 ? [{ value: 0, text: '0' }] : [];
    return [...middle, { value: least, text: withMinus(least) }, { value: most, text: String(most) }];
  }

  private tell(value: number): string {
    const [least, most] = rangeOf(this.control);
    const within = Math.round(Math.max(least, Math.min(most, value)));
    if (this.kind === 'pedal') return within >= 64 ? 'pedal down' : 'pedal up';
    return withMinus(within);
  }

  private y({ top, height }: Frame, value: number): number {
    const [least, most] = rangeOf(this.control);
    const room = Math.max(1, height - LANE_HEAD - 2 * ROOM);
    return top + LANE_HEAD + ROOM + (1 - (value - least) / (most - least)) * room;
  }

  private value({ top, height }: Frame, y: number): number {
    const [least, most] = rangeOf(this.control);
    const room = Math.max(1, height - LANE_HEAD - 2 * ROOM);
    const share = 1 - (y - top - LANE_HEAD - ROOM) / room;
    return Math.round(least + Math.max(0, Math.min(1, share)) * (most - least));
  }
}
