import {
  afterNextRender,
  computed,
  signal,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  viewChild,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { meterOf, noteCount, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { readPalette, Theme } from '../../common/theme';
import { HEAVY, Rest } from '../../common/unhurried';
import { Player } from '../../sound/player';
import { DeskActions } from '../../state/desk.feature';
import { Canvas, type DrawnLayer } from '../kit/canvas';
import { faint, NUMBER_FONT } from '../kit/draw';
import { Viewport } from '../kit/viewport';

const RULER = 18;

/** All tracks over the whole song, with the loop and the stretch that the roll shows. */
@Component({
  selector: 'es-overview',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div
      #host
      class="canvas"
      (pointerdown)="down($event)"
      (pointermove)="drag($event)"
      (pointerup)="up($event)"
    ></div>
    <div class="playhead" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>`,
  styles: `
    :host {
      display: block;
      position: relative;
      min-width: 0;
    }
    .canvas {
      position: absolute;
      inset: 0;
      touch-action: none;
    }
    .playhead {
      position: absolute;
      inset: 0 auto 0 0;
      width: 1px;
      background: var(--ink);
      pointer-events: none;
    }
  `,
})
export class Overview {
  readonly song = input.required<Song>();
  readonly tracks = input.required<readonly Track[]>();
  readonly current = input.required<string | null>();
  /** Id of the current part. */
  readonly part = input.required<string | null>();

  private readonly store = inject(Store);
  private dragged = false;
  private readonly view = inject(Viewport);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  private layers: { notes: DrawnLayer; overlay: DrawnLayer } | null = null;
  private readonly width = signal(0);
  private size = { width: 0, height: 0 };
  protected readonly playheadX = computed(() => (this.player.position() / this.view.end()) * this.width());

  constructor() {
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const element = this.host().nativeElement;
      const canvas = new Canvas(element);
      this.layers = {
        notes: canvas.layer((c) => this.paintNotes(c)),
        overlay: canvas.layer((c) => this.paintOverlay(c)),
      };
      const observer = new ResizeObserver(() => {
        this.size = { width: element.clientWidth, height: element.clientHeight };
        this.width.set(this.size.width);
        canvas.resize(this.size.width, this.size.height);
        this.layers?.notes.redraw();
        this.layers?.overlay.redraw();
      });
      observer.observe(element);
      destroy.onDestroy(() => {
        observer.disconnect();
        canvas.destroy();
      });
    });
    const rest = new Rest();
    effect((onCleanup) => {
      void [this.current(), this.part(), this.theme.name(), this.view.end()];
      const notes = this.tracks().reduce((sum, t) => sum + noteCount(t), 0);
      if (notes <= HEAVY) this.layers?.notes.redraw();
      else onCleanup(rest.wait(() => this.layers?.notes.redraw()));
    });
    effect(() => {
      void [this.view.left(), this.view.scale(), this.view.width()];
      void [this.player.loop(), this.player.loopOn(), this.theme.name()];
      this.layers?.overlay.redraw();
    });
  }

  private x(tick: number): number {
    return (tick / this.view.end()) * this.size.width;
  }

  /** Height of a track's row. */
  private row(): number {
    return Math.min(14, (this.size.height - RULER - 4) / Math.max(1, this.tracks().length));
  }

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    const { width, height } = this.size;
    const colors = readPalette();
    ctx.clearRect(0, 0, width, height);
    this.paintBars(ctx);
    const row = this.row();
    this.tracks().forEach((track, i) => {
      const y = RULER + i * row;
      const current = track.id === this.current();
      for (const part of track.parts) {
        const { from, to } = spanOf(part);
        const atHand = current && (track.parts.length === 1 || part.id === this.part());
        ctx.fillStyle = atHand ? faint(colors.action, 0.22) : colors.raised;
        ctx.fillRect(this.x(from), y, this.x(to) - this.x(from), row - 2);
        ctx.fillStyle = current ? colors.action : colors.soft;
        this.paintPart(ctx, part, y, row);
      }
    });
  }

  /** A stroke a note, each pixel at most once: a million notes are no more than there are pixels. */
  private paintPart(ctx: CanvasRenderingContext2D, part: Part, y: number, row: number): void {
    let lowest = 127;
    let highest = 0;
    for (const { pitch } of part.notes) {
      lowest = Math.min(lowest, pitch);
      highest = Math.max(highest, pitch);
    }
    const range = Math.max(1, highest - lowest);
    const width = Math.ceil(this.size.width) + 1;
    const rows = Math.max(1, Math.round(row - 4));
    const marked = new Uint8Array(width * rows);
    const scale = this.size.width / this.view.end();
    for (const { start, length, pitch } of part.notes) {
      const line = Math.round((rows - 1) * (1 - (pitch - lowest) / range)) * width;
      const from = Math.max(0, Math.floor(start * scale));
      const to = Math.min(width, Math.max(from + 1, Math.floor((start + length) * scale - 0.5)));
      for (let x = from; x < to; x++) marked[line + x] = 1;
    }
    for (let line = 0; line < rows; line++) {
      for (let x = 0; x < width; x++) {
        if (marked[line * width + x] === 0) continue;
        const from = x;
        while (x < width && marked[line * width + x] === 1) x++;
        ctx.fillRect(from, y + line, x - from, 1.5);
      }
    }
  }

  private paintBars(ctx: CanvasRenderingContext2D): void {
    const colors = readPalette();
    const meter = meterOf(this.song());
    ctx.font = `12px ${NUMBER_FONT}`;
    ctx.textBaseline = 'middle';
    for (const bar of meter.bars(0, this.view.end(), (44 / this.size.width) * this.view.end())) {
      const x = this.x(bar);
      ctx.fillStyle = colors.line;
      ctx.fillRect(Math.round(x), 0, 1, this.size.height);
      ctx.fillStyle = colors.soft;
      ctx.fillText(String(meter.toBarBeat(bar).bar), x + 4, RULER / 2);
    }
  }

  private paintOverlay(ctx: CanvasRenderingContext2D): void {
    const { width, height } = this.size;
    const colors = readPalette();
    ctx.clearRect(0, 0, width, height);
    const loop = this.player.loop();
    if (loop.to > loop.from) {
      ctx.fillStyle = faint(colors.action, this.player.loopOn() ? 0.3 : 0.12);
      ctx.fillRect(this.x(loop.from), 0, this.x(loop.to) - this.x(loop.from), RULER - 2);
    }
    const left = this.x(Math.max(0, this.view.left()));
    const right = this.x(Math.min(this.view.end(), this.view.right()));
    ctx.strokeStyle = colors.ink;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    ctx.roundRect(left + 0.75, 0.75, Math.max(4, right - left - 1.5), height - 2, 4);
    ctx.stroke();
  }

  protected down(event: PointerEvent): void {
    if (event.button !== 0) return;
    this.host().nativeElement.setPointerCapture(event.pointerId);
    this.dragged = false;
    this.go(event);
  }

  protected drag(event: PointerEvent): void {
    if (event.buttons !== 1) return;
    this.dragged = true;
    this.go(event);
  }

  /** A press makes another part the current one; a drag only goes through the song. */
  protected up(event: PointerEvent): void {
    if (event.button !== 0 || this.dragged) return;
    const track = this.tracks()[Math.floor((event.offsetY - RULER) / this.row())];
    const tick = this.tick(event);
    const part = track?.parts.find((p) => spanOf(p).from <= tick && tick < spanOf(p).to);
    if (!part || part.id === this.part()) return;
    this.store.dispatch(DeskActions.selectTrack({ trackId: track.id, partId: part.id }));
  }

  private tick(event: PointerEvent): number {
    return (event.offsetX / this.size.width) * this.view.end();
  }

  private go(event: PointerEvent): void {
    this.view.scrollTo(this.tick(event) - this.view.notesWidth() / this.view.scale() / 2);
  }
}

/** Where a part is, with a first note that lies before its beginning. Ticks. */
function spanOf(part: Part): { from: number; to: number } {
  const [first] = part.notes;
  return { from: Math.min(part.start, first?.start ?? part.start), to: part.end };
}
