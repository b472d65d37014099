import { isDrums } from '@early-sparrow/core/sound';
import { meterOf, type Song, type Track } from '@early-sparrow/core/song';
import { readPalette } from '../../common/theme';
import type { Span } from '../../sound/player';
import { Canvas, type DrawnLayer } from './canvas';
import { clipped, faint, type Scene } from './draw';
import { drawGrid } from './draw-grid';
import { drawLane } from './draw-lane';
import type { LivePlaying } from '../recording/live-take';
import { drawLive } from './draw-live';
import { drawNotes } from './draw-notes';
import { drawWaves, type Wave } from './draw-wave';
import type { Picture } from './picture';
import { swingHandles } from './swing-handles';
import { KEYS_WIDTH, LOOP_HEIGHT, RULER_HEIGHT, type Viewport } from './viewport';

/** What is painted: asked for at each painting. */
export interface Painted {
  song(): Song;
  track(): Track;
  picture(): Picture;
  corrected(): boolean;
  loop(): Span;
  loopOn(): boolean;
  /** Ids of the selected notes. */
  selected(): readonly number[];
  /** Index of the note that the keyboard is at; −1 for none. */
  cursor(): number;
  /** What is being recorded. */
  live(): LivePlaying;
  /** The playhead, in ticks. */
  playhead(): number;
  /** Sound files that are drawn. */
  waves(): readonly Wave[];
  box(): { x: number; y: number; w: number; h: number } | null;
}

/** The picture's three layers: grid, notes with their lane, and what lies over them. */
export class TimingPainter {
  private readonly canvas: Canvas;
  private readonly grid: DrawnLayer;
  private readonly notes: DrawnLayer;
  private readonly overlay: DrawnLayer;

  constructor(
    host: HTMLDivElement,
    private readonly view: Viewport,
    private readonly painted: Painted,
  ) {
    this.canvas = new Canvas(host);
    this.grid = this.canvas.layer((ctx) => this.paintGrid(ctx));
    this.notes = this.canvas.layer((ctx) => this.paintNotes(ctx));
    this.overlay = this.canvas.layer((ctx) => this.paintOverlay(ctx));
  }

  resize(width: number, height: number): void {
    this.canvas.resize(width, height);
  }

  redraw(): void {
    this.grid.redraw();
    this.notes.redraw();
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
    const song = this.painted.song();
    const picture = this.painted.picture();
    const handles = swingHandles(this.view, picture, song);
    drawGrid(this.scene(ctx), meterOf(song), picture.lines, isDrums(this.painted.track()), handles);
  }

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    if (this.view.width() === 0) return;
    const scene = this.scene(ctx);
    ctx.clearRect(0, 0, this.view.width(), this.view.height());
    drawNotes(scene, this.painted.picture(), this.painted.corrected(), this.painted.song().ppq);
    drawWaves(scene, this.painted.waves());
    drawLane(scene, this.painted.picture(), this.painted.corrected());
  }

  private paintOverlay(ctx: CanvasRenderingContext2D): void {
    const { view, painted } = this;
    const { colors } = this.scene(ctx);
    ctx.clearRect(0, 0, view.width(), view.height());
    this.paintLoop(ctx);
    this.paintSelection(ctx);
    drawLive(this.scene(ctx), painted.live(), painted.playhead());
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
    const ids = new Set(painted.selected());
    const cursor = painted.cursor();
    if (ids.size === 0 && cursor < 0) return;
    const picture = painted.picture();
    const starts = painted.corrected() ? picture.now : picture.played;
    const ends = painted.corrected() ? picture.nowEnd : picture.playedEnd;
    const { colors } = this.scene(ctx);
    clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
      ctx.strokeStyle = colors.ink;
      ctx.lineWidth = 2;
      ctx.beginPath();
      picture.part.notes.forEach((note, i) => {
        if (!ids.has(note.id) && i !== cursor) return;
        const x = view.x(starts[i]);
        const w = (ends[i] - starts[i]) * view.scale();
        if (x > view.width() || x + w < KEYS_WIDTH) return;
        ctx.rect(x - 1, view.y(picture.pitch[i]) + 0.5, w + 2, view.rowHeight() - 1);
      });
      ctx.stroke();
      ctx.lineWidth = 1;
    });
  }
}
