import { inject, Injectable } from '@angular/core';
import type { NewNote } from '@early-sparrow/core/shape';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { meterOf } from '@early-sparrow/core/song';
import { pitchName } from '../../common/format';
import { Scenery } from '../hand/scenery';
import { Shaping } from '../hand/shaping';
import { Sounding } from '../hand/sounding';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { onTheWay, ORDER, type At, type Gesture, type PointerSource, type Under } from '../kit/pointer';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { BoxGesture } from '../picture/box-gesture';
import { Drawing } from './drawing';

/** The pointer says a length or a velocity only once it has gone this far. */
const MEANT_PX = 5;
/** A velocity step for so many px up or down. */
const PX_A_VELOCITY = 1.5;
/** A run's way is looked at every so many px. */
const STEP_PX = 4;
/** A place this close before a line means that line, not the one before it; in px. */
const SNAP_PX = 5;

/**
 * An empty place of the roll: pressed twice it gets a note of one step. Held after that, sideways is its length, up and
 * down its velocity; with Shift it is a run, a note a step along the pointer's path. With Ctrl or ⌘ it is free of the lines.
 */
@Injectable()
export class DrawGesture implements PointerSource {
  readonly order = ORDER.empty - 0.5;
  private readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly shaping = inject(Shaping);
  private readonly sounding = inject(Sounding);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly drawing = inject(Drawing);
  private readonly box = inject(BoxGesture);

  under(at: At): Under | null {
    const { offsetX, offsetY } = at;
    const inRoll = offsetX >= KEYS_WIDTH && offsetY >= RULER_HEIGHT && offsetY < this.view.rollBottom();
    if (!inRoll || this.view.pitch(offsetY) < 0) return null;
    return { ...this.box.under(), again: (from) => (from.shiftKey ? this.run(from) : this.one(from)) };
  }

  /** One note. */
  private one(from: At): Gesture {
    const pitch = this.view.pitch(from.offsetY);
    const start = this.startAt(from);
    const step = this.drawing.step(start);
    const track = this.scenery.track().id;
    const loudness = this.shaping.loudness();
    this.sounding.touch(track, { pitch, velocity: loudness });
    let [longer, louder] = [false, false];
    const note = (at: At): NewNote => {
      const [dx, dy] = [at.offsetX - from.offsetX, from.offsetY - at.offsetY];
      longer ||= Math.abs(dx) >= MEANT_PX;
      louder ||= Math.abs(dy) >= MEANT_PX;
      const length = longer ? this.lengthTo(start, at, step) : step;
      const velocity = louder ? Math.min(127, Math.max(1, Math.round(loudness + dy / PX_A_VELOCITY))) : loudness;
      return { start, length, pitch, velocity, channel: this.shaping.channel() };
    };
    let last = note(from);
    const show = () => {
      this.feedback.hint.set(this.tell(last));
      this.shaping.show(this.shaping.added([last])?.edit ?? null);
    };
    show();
    return {
      kind: 'draw',
      move: (at) => {
        last = note(at);
        show();
      },
      drop: () => {
        this.treating.endTrying();
        if (this.shaping.add(this.shaping.added([last]), 'draw')) this.shaping.loudness.set(last.velocity);
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  /** A run: a note on each line that the pointer comes by, at its height there. */
  private run(from: At): Gesture {
    const track = this.scenery.track().id;
    const velocity = this.shaping.loudness();
    const channel = this.shaping.channel();
    const notes = new Map<number, NewNote>();
    let before = from;
    const put = (at: At) => {
      const pitch = this.view.pitch(at.offsetY);
      if (pitch < 0) return;
      const start = this.startAt(at);
      const known = notes.get(start);
      if (known?.pitch === pitch) return;
      notes.set(start, { start, length: this.drawing.step(start), pitch, velocity, channel });
      this.sounding.touch(track, { pitch, velocity });
    };
    const along = (to: At) => {
      for (const at of onTheWay(before, to, STEP_PX)) put(at);
      before = to;
      this.feedback.hint.set(`${notes.size} ${notes.size === 1 ? 'note' : 'notes'}`);
    };
    const added = () => this.shaping.added([...notes.values()].sort((a, b) => a.start - b.start));
    put(from);
    this.shaping.show(added()?.edit ?? null);
    return {
      kind: 'run',
      move: (at) => {
        along(at);
        this.shaping.show(added()?.edit ?? null);
      },
      drop: (at) => {
        along(at);
        this.treating.endTrying();
        this.shaping.add(added(), 'draw');
      },
      cancel: () => this.treating.endTrying(),
    };
  }

  /** The line that a place means: the one before it, or one that is just behind it. */
  private startAt(at: At): number {
    const tick = Math.max(0, this.view.tick(at.offsetX));
    if (at.ctrlKey || at.metaKey) return Math.round(tick);
    const { lines } = this.scenery.pictureAt(tick);
    lines.locate(tick + SNAP_PX / this.view.scale());
    return Math.max(0, Math.round(Math.max(lines.before, 0)));
  }

  /** How long a note is that is drawn out to a place: to a line, but with Ctrl or ⌘. */
  private lengthTo(start: number, at: At, step: number): number {
    const tick = this.view.tick(at.offsetX);
    const free = at.ctrlKey || at.metaKey;
    const end = free ? tick : this.scenery.pictureAt(start).lines.nearest(Math.max(0, tick));
    return Math.max(free ? step / 8 : step, Math.round(end) - start);
  }

  private tell({ start, length, pitch, velocity }: NewNote): string {
    const { bar, beat } = meterOf(this.scenery.song()).toBarBeat(start);
    const name = isDrums(this.scenery.track()) ? percussionName(pitch) : pitchName(pitch);
    const steps = Math.round((length / this.drawing.step(start)) * 100) / 100;
    return `${name}, bar ${bar} beat ${beat} · ${steps} ${steps === 1 ? 'step' : 'steps'} · velocity ${velocity}`;
  }
}
