import { inject, Injectable, signal, type Signal } from '@angular/core';
import { Store } from '@ngrx/store';
import { stepTicks, SWING_MAX, SWING_MIN } from '@early-sparrow/core/grid';
import { tempoOf, type Song } from '@early-sparrow/core/song';
import { describeTicks } from '@early-sparrow/core/time';
import { Player } from '../../sound/player';
import { DeskActions } from '../../state/desk.feature';
import { chordsInView, laneBands, laneMs, laneY } from '../picture/draw-lane';
import { noteAt, type Picture } from '../picture/picture';
import { Selecting, type Move } from './selecting';
import { swingHandles, type SwingHandle } from '../picture/swing-handles';
import { Treating } from '../treatment/treating';
import { KEYS_WIDTH, LOOP_HEIGHT, RULER_HEIGHT, Viewport } from '../picture/viewport';

/** A place in the picture in px, with what else the pointer says. */
export type At = Pick<PointerEvent, 'offsetX' | 'offsetY' | 'ctrlKey' | 'metaKey' | 'shiftKey' | 'altKey' | 'button'>;

/** What the pointer is doing since it was pressed: it can be followed, let go, or taken back. */
export interface Gesture {
  readonly kind: 'loop' | 'seek' | 'swing' | 'pan' | 'box' | 'note' | 'tolerance' | 'reach';
  move(at: At): void;
  drop(at: At): void;
  cancel(): void;
}

/** A note that is dropped this close to a line goes onto it; with Ctrl or ⌘ it does not. */
const SNAP_PX = 7;
/** A note moves in time only once the pointer has gone this far sideways. */
const SIDEWAYS_PX = 4;

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
  private readonly store = inject(Store);
  /** The rectangle that is being drawn over notes, in px. */
  readonly box = signal<{ x: number; y: number; w: number; h: number } | null>(null);
  /** What a drag does so far, in words. */
  readonly hint = signal<string | null>(null);
  private scenery: Scenery | null = null;

  attach(scenery: Scenery): void {
    this.scenery = scenery;
  }

  private get seen(): Scenery {
    if (!this.scenery) throw new Error('Gestures need a picture first.');
    return this.scenery;
  }

  /** What pressing here begins. */
  begin(at: At): Gesture {
    const { offsetX: x, offsetY: y } = at;
    if (at.button === 1 || (at.altKey && y >= RULER_HEIGHT)) return this.pan(at);
    if (y < RULER_HEIGHT && x >= KEYS_WIDTH) {
      if (y < LOOP_HEIGHT) return this.loop(at);
      const handle = this.handleUnder(x, y);
      return handle ? this.swing(handle) : this.seek();
    }
    if (x < KEYS_WIDTH) return this.pan(at);
    const note = this.noteUnder(x, y);
    if (note >= 0) return this.drag(note, at);
    const band = this.bandUnder(y);
    return band ? this.band(band) : this.rectangle(at);
  }

  /** The shape of the pointer over a place: it tells what pressing there does. */
  cursor(x: number, y: number): string {
    if (x < KEYS_WIDTH) return 'pointer';
    if (y < LOOP_HEIGHT) return { edge: 'ew-resize', inside: 'grab', outside: 'crosshair' }[this.loopUnder(x).place];
    if (y < RULER_HEIGHT) return this.handleUnder(x, y) ? 'ew-resize' : 'text';
    if (this.noteUnder(x, y) >= 0) return 'move';
    return this.bandUnder(y) ? 'ns-resize' : 'default';
  }

  private loopUnder(x: number): { place: 'edge' | 'inside' | 'outside'; edge: 'from' | 'to' } {
    const { from, to } = this.player.loop();
    if (to <= from) return { place: 'outside', edge: 'to' };
    const [a, b] = [this.view.x(from), this.view.x(to)];
    const edge = Math.abs(x - a) < Math.abs(x - b) ? 'from' : 'to';
    if (Math.min(Math.abs(x - a), Math.abs(x - b)) <= 5) return { place: 'edge', edge };
    return { place: x > a && x < b ? 'inside' : 'outside', edge };
  }

  /** Whether a place in the loop's strip is on the loop. */
  onLoop(x: number, y: number): boolean {
    return y < LOOP_HEIGHT && x >= KEYS_WIDTH && this.loopUnder(x).place !== 'outside';
  }

  private handleUnder(x: number, y: number): SwingHandle | null {
    if (y < RULER_HEIGHT - 14 || y > RULER_HEIGHT) return null;
    const { song, picture } = this.seen;
    return swingHandles(this.view, picture(), song()).find((h) => Math.abs(this.view.x(h.line) - x) <= 7) ?? null;
  }

  /** The band edge under a height in the lane. */
  private bandUnder(y: number): 'tolerance' | 'reach' | null {
    if (y < this.view.laneTop()) return null;
    const picture = this.seen.picture();
    const { tolerance, reach } = laneBands(picture);
    const near = (ms: number | null) =>
      ms !== null && [-ms, ms].some((edge) => Math.abs(laneY({ view: this.view }, picture, edge) - y) < 5);
    return near(tolerance) ? 'tolerance' : near(reach) ? 'reach' : null;
  }

  private pan(from: At): Gesture {
    let { offsetX: x, offsetY: y } = from;
    const inRoll = y < this.view.waveTop();
    const move = (at: At) => {
      this.view.scroll(x - at.offsetX, inRoll ? y - at.offsetY : 0);
      ({ offsetX: x, offsetY: y } = at);
    };
    return { kind: 'pan', move, drop: move, cancel: () => undefined };
  }

  private seek(): Gesture {
    const before = this.player.position();
    const to = (at: At) => this.player.seek(Math.max(0, this.view.tick(at.offsetX)));
    return {
      kind: 'seek',
      // While it plays the sound jumps once, when the pointer is let go.
      move: (at) => !this.player.playing() && to(at),
      drop: to,
      cancel: () => !this.player.playing() && this.player.seek(before),
    };
  }

  /** Draws a loop, moves it, or one of its edges. */
  private loop(from: At): Gesture {
    const before = this.player.loop();
    const wasOn = this.player.loopOn();
    const { place, edge } = this.loopUnder(from.offsetX);
    const start = this.view.tick(from.offsetX);
    const move = (at: At) => {
      const tick = this.view.tick(at.offsetX);
      if (place === 'inside') {
        const begin = Math.max(0, this.nearestLine(before.from + tick - start));
        this.player.loop.set({ from: begin, to: begin + before.to - before.from });
        return;
      }
      const fixed = place === 'edge' ? (edge === 'from' ? before.to : before.from) : this.nearestLine(start);
      const other = this.nearestLine(tick);
      this.player.loop.set({ from: Math.min(fixed, other), to: Math.max(fixed, other) });
    };
    return {
      kind: 'loop',
      move,
      drop: (at) => {
        move(at);
        const { from: a, to: b } = this.player.loop();
        this.player.loopOn.set(b > a && (wasOn || place === 'outside'));
      },
      cancel: () => this.player.loop.set(before),
    };
  }

  private swing({ pair }: SwingHandle): Gesture {
    const step = stepTicks(this.seen.picture().part.treatment.quantize.grid, this.seen.song().ppq);
    const change = (at: At) => {
      const wanted = (this.view.tick(at.offsetX) - pair) / (2 * step);
      const swing = Math.round(Math.min(SWING_MAX, Math.max(SWING_MIN, wanted)) * 200) / 200;
      this.hint.set(`swing ${Math.round(swing * 1000) / 10} %`);
      return { quantize: { grid: { swing } } };
    };
    return this.ended({
      kind: 'swing',
      move: (at) => this.treating.try('Swing', change(at)),
      drop: (at) => this.treating.commit('Swing', change(at)),
      cancel: () => this.treating.endTrying(),
    });
  }

  private band(kind: 'tolerance' | 'reach'): Gesture {
    const name = kind === 'tolerance' ? 'Tolerance' : 'Reach';
    const change = (at: At) => {
      const ms = Math.abs(laneMs(this.view, this.seen.picture(), at.offsetY));
      const value = Math.max(0, Math.round(ms * 2) / 2);
      this.hint.set(`${name.toLowerCase()} ${value} ms`);
      return { quantize: { [kind]: { value, unit: 'ms' as const } } };
    };
    return this.ended({
      kind,
      move: (at) => this.treating.try(name, change(at)),
      drop: (at) => this.treating.commit(name, change(at)),
      cancel: () => this.treating.endTrying(),
    });
  }

  private rectangle(from: At): Gesture {
    const { offsetX: x0, offsetY: y0 } = from;
    const area = (at: At) => ({
      x: Math.min(x0, at.offsetX),
      y: Math.min(y0, at.offsetY),
      w: Math.abs(at.offsetX - x0),
      h: Math.abs(at.offsetY - y0),
    });
    return {
      kind: 'box',
      move: (at) => this.box.set(area(at)),
      drop: (at) => {
        this.box.set(null);
        const found = this.notesIn(area(at), y0 >= this.view.laneTop());
        const before = at.shiftKey ? this.selecting.ids() : [];
        this.selecting.select([...new Set([...before, ...found])]);
      },
      cancel: () => this.box.set(null),
    };
  }

  /** Moves notes: in the roll sideways in time and up and down in pitch, in the lane along its scale of ms. */
  private drag(note: number, from: At): Gesture {
    // The picture changes while the notes are shown on their way: all is told from how it was.
    const picture = this.seen.picture();
    const corrected = this.seen.corrected();
    const inLane = from.offsetY >= this.view.laneTop();
    const ids = this.dragged(picture, note, inLane);
    let sideways = false;
    let upright = false;
    const moveTo = (at: At): Move => {
      const dx = at.offsetX - from.offsetX;
      const dy = at.offsetY - from.offsetY;
      if (!sideways && !upright && inLane) upright = Math.abs(dy) > Math.abs(dx);
      sideways ||= !upright && Math.abs(dx) >= SIDEWAYS_PX;
      const rows = inLane ? 0 : Math.round(-dy / this.view.rowHeight());
      const ticks = upright
        ? this.toOffset(picture, note, corrected, dy, at)
        : sideways
          ? this.toPlace(picture, note, corrected, dx, at)
          : 0;
      this.hint.set(this.tell(ticks, rows));
      if (!corrected && !inLane) this.box.set(this.ghost(picture, note, ticks, rows));
      return { ticks, rows, pitches: this.view.pitches(), from: corrected ? 'corrected' : 'played' };
    };
    return this.ended({
      kind: 'note',
      move: (at) => this.store.dispatch(DeskActions.preview({ edit: this.selecting.moveEdit(ids, moveTo(at)) })),
      drop: (at) => {
        const move = moveTo(at);
        this.box.set(null);
        this.treating.endTrying();
        this.selecting.move(ids, move);
      },
      cancel: () => {
        this.box.set(null);
        this.treating.endTrying();
      },
    });
  }

  /** Where a note of the take is on its way to: the take itself stays, so that its picture does not follow. */
  private ghost(picture: Picture, note: number, ticks: number, rows: number) {
    const { view } = this;
    const start = picture.played[note];
    const w = Math.max(4, (picture.playedEnd[note] - start) * view.scale());
    const y = view.y(picture.pitch[note]) - rows * view.rowHeight();
    return { x: view.x(start + ticks), y, w, h: view.rowHeight() };
  }

  /** A gesture that clears its hint when it is over. */
  private ended(gesture: Gesture): Gesture {
    return {
      ...gesture,
      drop: (at) => {
        gesture.drop(at);
        this.hint.set(null);
      },
      cancel: () => {
        gesture.cancel();
        this.hint.set(null);
      },
    };
  }

  private tell(ticks: number, rows: number): string {
    const { ppq } = this.seen.song();
    const bpm = tempoOf(this.seen.song()).bpmAt(0);
    const time = ticks === 0 ? '' : `${describeTicks(Math.abs(ticks), ppq, bpm)} ${ticks < 0 ? 'earlier' : 'later'}`;
    const pitch =
      rows === 0 ? '' : `${Math.abs(rows)} ${Math.abs(rows) === 1 ? 'row' : 'rows'} ${rows < 0 ? 'down' : 'up'}`;
    return [time, pitch].filter(Boolean).join(', ') || 'not moved';
  }

  /** How far a drop sideways moves the notes, in ticks: onto a line that is drawn, where one is near. */
  private toPlace(picture: Picture, note: number, corrected: boolean, dx: number, at: At): number {
    const start = (corrected ? picture.now : picture.played)[note];
    const wanted = Math.max(0, start + dx / this.view.scale());
    const line = picture.lines.nearest(wanted);
    const snaps = !at.ctrlKey && !at.metaKey && Math.abs(line - wanted) * this.view.scale() <= SNAP_PX;
    return Math.round((snaps ? line : wanted) - start);
  }

  /** How far a drop up or down the lane moves them, in ticks: by the lane's ms, onto the line where it is near. */
  private toOffset(picture: Picture, note: number, corrected: boolean, dy: number, at: At): number {
    const start = (corrected ? picture.now : picture.played)[note];
    const was = (corrected ? picture.after : picture.before)[note];
    const perPx = laneMs(this.view, picture, 1) - laneMs(this.view, picture, 0);
    const wanted = was + dy * perPx;
    const snaps = !at.ctrlKey && !at.metaKey && Math.abs(wanted) <= Math.abs(4 * perPx);
    const ms = snaps ? 0 : wanted;
    return Math.round(tempoOf(this.seen.song()).shift(picture.line[note], ms) - start);
  }

  /** The notes that a drag moves: the selection if the note is in it, else the note; in the lane its whole chord. */
  private dragged(picture: Picture, note: number, inLane: boolean): number[] {
    const { notes } = picture.part;
    const { id } = notes[note];
    if (this.selecting.ids().includes(id)) return [...this.selecting.ids()];
    if (!inLane) return [id];
    const { chord, chords } = picture;
    const members = chords.notes.subarray(chords.first[chord[note]], chords.first[chord[note] + 1]);
    return Array.from(members, (i) => notes[i].id);
  }

  private notesIn(box: { x: number; y: number; w: number; h: number }, lane: boolean): number[] {
    const { view } = this;
    const picture = this.seen.picture();
    const { notes } = picture.part;
    const corrected = this.seen.corrected();
    const starts = corrected ? picture.now : picture.played;
    const offsets = corrected ? picture.after : picture.before;
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
    if (y >= this.view.waveTop() || y < RULER_HEIGHT) return;
    const pitch = this.view.pitch(y);
    this.selecting.select(
      this.seen
        .picture()
        .part.notes.filter((n) => n.pitch === pitch)
        .map((n) => n.id),
    );
  }

  /** Loops snap to the beat, or closer in to the lines that are drawn, swung ones too. */
  private nearestLine(tick: number): number {
    const { ppq } = this.seen.song();
    const at = Math.max(0, tick);
    return ppq * this.view.scale() < 120
      ? Math.round(at / ppq) * ppq
      : Math.round(this.seen.picture().lines.nearest(at));
  }

  noteUnder(x: number, y: number): number {
    const { view } = this;
    if (x < KEYS_WIDTH || y < RULER_HEIGHT) return -1;
    if (y >= view.laneTop()) return this.chordMarkUnder(x, y);
    if (view.inWave(y)) return -1;
    return noteAt(this.seen.picture(), this.seen.corrected(), view.tick(x), view.pitch(y), 2 / view.scale());
  }

  private chordMarkUnder(x: number, y: number): number {
    const { view } = this;
    const picture = this.seen.picture();
    let best = -1;
    let nearest = 9;
    const { chords } = picture;
    const { from, to } = chordsInView({ view }, picture);
    const look = (c: number, tick: number, ms: number) => {
      const away = Math.hypot(view.x(tick) - x, laneY({ view }, picture, ms) - y);
      if (away < nearest) [best, nearest] = [chords.notes[chords.first[c]], away];
    };
    for (let c = from; c < to; c++) {
      look(c, chords.played[c], chords.before[c]);
      if (this.seen.corrected()) look(c, chords.now[c], chords.after[c]);
    }
    return best;
  }
}
