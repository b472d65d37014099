import type { IdSet } from '@early-sparrow/core/maths';
import { isDrums } from '@early-sparrow/core/sound';
import { meterOf } from '@early-sparrow/core/song';
import { readPalette } from '../../common/theme';
import type { Span } from '../../sound/player';
import type { Picture } from '../hand/picture';
import type { Scenery } from '../hand/scenery';
import { Canvas, type DrawnLayer } from '../kit/canvas';
import { clipped, faint, type Scene } from '../kit/draw';
import type { Lane } from '../kit/lane';
import type { Overlay } from '../kit/overlay';
import type { Box } from '../kit/pointer';
import { KEYS_WIDTH, LOOP_HEIGHT, RULER_HEIGHT, type Viewport } from '../kit/viewport';
import { drawGrid } from './draw-grid';
import { DETAIL, drawNotes } from './draw-notes';
import { drawBehind, drawLinesBehind, drawParts, frameNotes, OTHER_PARTS, shadeNotes, strikeNotes } from './draw-parts';
import { swingHandles } from './swing-handles';

/** What is painted: asked for at each painting. */
export interface Painted {
  readonly scenery: Scenery;
  readonly lanes: readonly Lane[];
  /** What stands behind, of other tracks. */
  behind(): readonly Picture[];
  /** Those of them whose lines are shown too. */
  lined(): readonly Picture[];
  readonly overlays: readonly Overlay[];
  loop(): Span;
  loopOn(): boolean;
  /** Ids of the selected notes. */
  selected(): IdSet;
  /** Id of the note that the keyboard is at; null for none. */
  cursor(): number | null;
  /** Ids of notes that something would be done to. */
  marked(): ReadonlySet<number>;
  box(): Box | null;
}

/** The picture's layers: grid, notes, the lanes under them, and what lies over all. */
export class TimingPainter {
  private readonly canvas: Canvas;
  private readonly grid: DrawnLayer;
  private readonly notes: DrawnLayer;
  private readonly lanes: DrawnLayer;
  /** Lanes that are to be painted; null for all. */
  private stale: Set<Lane> | null = null;
  /** Where the lanes were painted. */
  private frames = '';
  private readonly overlay: DrawnLayer;

  constructor(
    host: HTMLDivElement,
    private readonly view: Viewport,
    private readonly painted: Painted,
  ) {
    this.canvas = new Canvas(host);
    this.grid = this.canvas.layer((ctx) => this.paintGrid(ctx));
    this.notes = this.canvas.layer((ctx) => this.paintNotes(ctx));
    this.lanes = this.canvas.layer((ctx) => this.paintLanes(ctx));
    this.overlay = this.canvas.layer((ctx) => this.paintOverlay(ctx));
  }

  resize(width: number, height: number): void {
    this.stale = null;
    this.canvas.resize(width, height);
  }

  redraw(): void {
    this.stale = null;
    this.grid.redraw();
    this.notes.redraw();
    this.lanes.redraw();
  }

  redrawGrid(): void {
    this.grid.redraw();
  }

  redrawNotes(): void {
    this.notes.redraw();
  }

  redrawLane(lane: Lane): void {
    this.stale?.add(lane);
    this.lanes.redraw();
  }

  redrawOverlay(): void {
    this.overlay.redraw();
  }

  destroy(): void {
    this.canvas.destroy();
  }

  private scene(ctx: CanvasRenderingContext2D): Scene {
    return { ctx, view: this.view, colors: readPalette() };
  }

  private paintGrid(ctx: CanvasRenderingContext2D): void {
    if (this.view.width() === 0) return;
    const { song, track, picture, treatment } = this.painted.scenery;
    const { lines } = picture();
    const handles = swingHandles(this.view, lines, treatment(), song());
    drawGrid(this.scene(ctx), meterOf(song()), lines, isDrums(track()), handles);
  }

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    if (this.view.width() === 0) return;
    const scene = this.scene(ctx);
    ctx.clearRect(0, 0, this.view.width(), this.view.height());
    const { song, picture, others, corrected } = this.painted.scenery;
    if (others().length > 0) drawParts(scene, [picture(), ...others()], picture());
    for (const other of this.painted.lined()) drawLinesBehind(scene, other);
    for (const other of this.painted.behind()) drawBehind(scene, other, corrected());
    ctx.globalAlpha = OTHER_PARTS;
    for (const other of others()) drawNotes(scene, other, corrected(), song().ppq);
    ctx.globalAlpha = 1;
    drawNotes(scene, picture(), corrected(), song().ppq);
  }

  /** Only lanes that look another way are painted, unless one of them lies elsewhere now. */
  private paintLanes(ctx: CanvasRenderingContext2D): void {
    const { view } = this;
    if (view.width() === 0) return;
    const scene = this.scene(ctx);
    const all = this.painted.lanes.map((lane) => ({ lane, frame: view.frameOf(lane.id) }));
    const frames = JSON.stringify(all.map(({ frame }) => frame));
    const stale = frames === this.frames ? this.stale : null;
    if (!stale) ctx.clearRect(0, 0, view.width(), view.height());
    for (const { lane, frame } of all) {
      if (frame.height <= 0 || (stale && !stale.has(lane))) continue;
      // Whole pixels: what is painted anew leaves nothing of before at its edges.
      const [top, bottom] = [Math.round(frame.top), Math.round(frame.top + frame.height)];
      clipped(ctx, 0, top, view.width(), bottom - top, () => {
        ctx.clearRect(0, top, view.width(), bottom - top);
        lane.draw(scene, frame);
      });
    }
    this.frames = frames;
    this.stale = new Set();
  }

  private paintOverlay(ctx: CanvasRenderingContext2D): void {
    const { view, painted } = this;
    const scene = this.scene(ctx);
    const { colors } = scene;
    ctx.clearRect(0, 0, view.width(), view.height());
    this.paintLoop(ctx);
    this.paintSelection(ctx);
    this.paintMarked(ctx);
    for (const overlay of painted.overlays) overlay.draw(scene);
    const box = painted.box();
    if (!box) return;
    ctx.fillStyle = faint(colors.action, 0.12);
    ctx.strokeStyle = colors.action;
    ctx.fillRect(box.x, box.y, box.w, box.h);
    ctx.strokeRect(box.x, box.y, box.w, box.h);
  }

  private paintLoop(ctx: CanvasRenderingContext2D): void {
    const { view } = this;
    const { colors } = this.scene(ctx);
    const loop = this.painted.loop();
    const from = Math.max(KEYS_WIDTH, view.x(loop.from));
    const to = Math.min(view.width(), view.x(loop.to));
    if (loop.to <= loop.from || to <= from) return;
    ctx.fillStyle = faint(colors.action, this.painted.loopOn() ? 0.75 : 0.25);
    ctx.fillRect(from, 2, to - from, LOOP_HEIGHT - 4);
    if (!this.painted.loopOn()) return;
    ctx.fillStyle = faint(colors.action, 0.5);
    for (const edge of [from, to - 1]) ctx.fillRect(edge, LOOP_HEIGHT, 1, view.height());
  }

  private paintSelection(ctx: CanvasRenderingContext2D): void {
    const { view, painted } = this;
    const ids = painted.selected();
    const cursor = painted.cursor();
    if (ids.size === 0 && cursor === null) return;
    const { scenery } = painted;
    const { colors } = this.scene(ctx);
    clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
      ctx.strokeStyle = colors.ink;
      ctx.lineWidth = 2;
      ctx.beginPath();
      const small = scenery.song().ppq * view.scale() < DETAIL;
      if (small) ctx.fillStyle = faint(colors.ink, 0.6);
      for (const picture of scenery.pictures()) {
        const wanted = (id: number) => ids.has(id) || id === cursor;
        if (small) shadeNotes(ctx, view, picture, scenery.corrected(), wanted);
        else frameNotes(ctx, view, picture, scenery.corrected(), wanted);
      }
      ctx.stroke();
      ctx.lineWidth = 1;
    });
  }

  /** Notes that something would be done to: struck through. */
  private paintMarked(ctx: CanvasRenderingContext2D): void {
    const { view, painted } = this;
    const ids = painted.marked();
    if (ids.size === 0) return;
    const { scenery } = painted;
    const { colors } = this.scene(ctx);
    clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
      for (const [color, width] of [
        [colors.paper, 5],
        [colors.action, 2.5],
      ] as const) {
        ctx.strokeStyle = color;
        ctx.lineWidth = width;
        ctx.beginPath();
        for (const picture of scenery.pictures()) {
          strikeNotes(ctx, view, picture, scenery.corrected(), (id) => ids.has(id));
        }
        ctx.stroke();
      }
      ctx.lineWidth = 1;
    });
  }
}
