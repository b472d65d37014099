import { inject } from '@angular/core';
import {
  addEvent,
  drawControl,
  eraseEvents,
  eventsOf,
  moveEvent,
  rangeOf,
  type Control,
  type Point,
  type Shaped,
} from '@early-sparrow/core/shape';
import { eventAsTaken, type Part } from '@early-sparrow/core/song';
import { treatEvents } from '@early-sparrow/core/treatment';
import { Scenery } from '../hand/scenery';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { clipped, faint, NUMBER_FONT, type Scene } from '../kit/draw';
import { Feedback } from '../kit/feedback';
import type { Frame } from '../kit/frame';
import type { Lane } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import type { At, Gesture, Under } from '../kit/pointer';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import { LANE_HEAD } from '../picture/draw-lane';
import { NoteGesture } from '../picture/note-gesture';
import { ControlHead } from './control-head';
import { Controls, type ControlKind } from './controls';

/** A point is under the pointer if it is this close, in px. */
const POINT_PX = 8;
const ROOM = 6;
/** A lane that is lower has no scale: there is no room for its numbers; in px. */
const LOW = 64;
/** Drawn by hand there is a point for so many px. */
const PX_A_POINT = 4;

/** Where a part's events of the lane are: as played, and now. */
interface Spot {
  /** Index in the part's events. */
  readonly index: number;
  readonly played: number;
  readonly now: number;
  readonly value: number;
}

/**
 * Events beside the notes, as played hollow and corrected solid: a point is dragged in time and value, pressed twice it
 * goes; beside the points the pointer draws, and a double press adds one. In the pedal's lane a stroke is a pedal held.
 */
export abstract class ControlLane implements Lane {
  abstract readonly id: string;
  abstract readonly name: string;
  abstract readonly order: number;
  abstract readonly kind: ControlKind;
  readonly head = ControlHead;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly shaping = inject(Shaping);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly notes = inject(NoteGesture);
  private readonly controls = inject(Controls);
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

  depends(): void {
    void [this.scenery.picture(), this.scenery.others(), this.scenery.corrected(), this.height()];
    void [this.controls.number(), this.controls.channel()];
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
    const { ctx, view, colors } = scene;
    const spots = this.spotsOf(part);
    const corrected = this.scenery.corrected();
    const zero = this.y(frame, 0);
    const end = view.x(part.end);
    ctx.fillStyle = faint(colors.action, 0.22);
    spots.forEach((spot, k) => {
      const x = view.x(corrected ? spot.now : spot.played);
      const next = spots.at(k + 1);
      const to = next ? view.x(corrected ? next.now : next.played) : Math.max(x, end);
      if (to < KEYS_WIDTH || x > view.width() || spot.value === 0) return;
      const y = this.y(frame, spot.value);
      ctx.fillRect(x, Math.min(y, zero), to - x, Math.abs(zero - y));
    });
    ctx.fillStyle = colors.action;
    ctx.strokeStyle = colors.action;
    for (const { played, now, value } of spots) {
      const y = this.y(frame, value);
      const x = view.x(corrected ? now : played);
      ctx.beginPath();
      ctx.arc(x, y, 3.5, 0, 2 * Math.PI);
      ctx.fill();
      if (!corrected || played === now) continue;
      ctx.beginPath();
      ctx.arc(view.x(played), y, 3.5, 0, 2 * Math.PI);
      ctx.stroke();
    }
  }

  under(at: At, frame: Frame): Under | null {
    if (at.offsetX < KEYS_WIDTH) return null;
    const found = this.pointUnder(at, frame);
    if (!found) {
      return {
        cursor: 'crosshair',
        press: (from) => this.stroke(from, frame),
        double: (to) => this.make(this.added(to, frame), 'draw controller'),
      };
    }
    const { part, spot } = found;
    return {
      cursor: this.kind === 'pedal' ? 'ew-resize' : 'move',
      hint: this.tell(spot.value),
      press: (from) => this.drag(part, spot, from, frame),
      double: () => this.make(eraseEvents(part, [spot.index]), 'erase controller'),
    };
  }

  inside(): readonly number[] {
    return [];
  }

  /** A sweep that erases all points that the pointer comes by. */
  erasing(from: At, frame: Frame): Gesture {
    const gone = new Map<string, Set<number>>();
    const look = (at: At) => {
      const found = this.pointUnder(at, frame);
      if (!found) return;
      const set = gone.get(found.part.id) ?? new Set();
      gone.set(found.part.id, set.add(found.spot.index));
      const count = [...gone.values()].reduce((sum, s) => sum + s.size, 0);
      this.feedback.hint.set(`${count} ${count === 1 ? 'point' : 'points'} erased`);
    };
    look(from);
    const over = () => this.feedback.hint.set(null);
    return {
      kind: 'erase points',
      move: look,
      drop: (at) => {
        look(at);
        over();
        for (const part of this.scenery.track().parts) {
          const indices = gone.get(part.id);
          if (indices) this.make(eraseEvents(part, [...indices]), 'erase controller');
        }
      },
      cancel: over,
    };
  }

  private spotsOf(part: Part): Spot[] {
    const { track, song } = this.scenery;
    const ticks = treatEvents(track().parts, song())[track().parts.indexOf(part)];
    return eventsOf(part, this.control)
      .map((index): Spot => {
        const event = part.events[index];
        const value = 'value' in event ? event.value : 0;
        return { index, played: eventAsTaken(event).tick, now: ticks[index], value };
      })
      .sort((a, b) => a.now - b.now);
  }

  private pointUnder({ offsetX: x, offsetY: y }: At, frame: Frame): { part: Part; spot: Spot } | null {
    let best: { part: Part; spot: Spot } | null = null;
    let nearest = POINT_PX;
    const corrected = this.scenery.corrected();
    for (const part of this.scenery.track().parts) {
      for (const spot of this.spotsOf(part)) {
        const dx = this.view.x(corrected ? spot.now : spot.played) - x;
        if (Math.abs(dx) > POINT_PX) continue;
        const away = Math.hypot(dx, this.y(frame, spot.value) - y);
        if (away < nearest) [best, nearest] = [{ part, spot }, away];
      }
    }
    return best;
  }

  private drag(part: Part, spot: Spot, from: At, frame: Frame): Gesture {
    const picture = this.scenery.picture();
    const corrected = this.scenery.corrected();
    return this.shaping.changing(
      'control',
      (at) => {
        const start = corrected ? spot.now : spot.played;
        const dx = at.offsetX - from.offsetX;
        const tick = Math.abs(dx) < 2 ? start : this.notes.snapped(picture, start + dx / this.view.scale(), at);
        const rise = this.value(frame, at.offsetY) - this.value(frame, from.offsetY);
        const value = this.kind === 'pedal' ? spot.value : spot.value + rise;
        this.feedback.hint.set(this.tell(value));
        return moveEvent(this.real(part), spot.index, { tick, value });
      },
      'draw controller',
    );
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
    return [...middle, { value: least, text: String(least).replace('-', '−') }, { value: most, text: String(most) }];
  }

  private tell(value: number): string {
    const [least, most] = rangeOf(this.control);
    const within = Math.round(Math.max(least, Math.min(most, value)));
    if (this.kind === 'pedal') return within >= 64 ? 'pedal down' : 'pedal up';
    return String(within).replace('-', '−');
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
