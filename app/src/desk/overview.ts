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
import { meterOf, type Song, type Track } from '@early-sparrow/core/song';
import { readPalette, Theme } from '../common/theme';
import { Player } from '../sound/player';
import { Canvas, type DrawnLayer } from './canvas';
import { faint, NUMBER_FONT } from './draw';
import { Viewport } from './viewport';

const RULER = 18;

/** All tracks over the whole song, with the loop and the stretch that the roll shows. */
@Component({
  selector: 'es-overview',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div #host class="canvas" (pointerdown)="down($event)" (pointermove)="drag($event)"></div>
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
    effect(() => {
      void [this.tracks(), this.current(), this.theme.name(), this.view.end()];
      this.layers?.notes.redraw();
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

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    const { width, height } = this.size;
    const colors = readPalette();
    ctx.clearRect(0, 0, width, height);
    this.paintBars(ctx);
    const row = Math.min(14, (height - RULER - 4) / Math.max(1, this.tracks().length));
    this.tracks().forEach((track, i) => {
      const y = RULER + i * row;
      const current = track.id === this.current();
      for (const part of track.parts) {
        const last = part.notes[part.notes.length - 1];
        const from = this.x(Math.min(part.start, part.notes[0].start));
        const to = this.x(last.start + last.length);
        ctx.fillStyle = current ? faint(colors.action, 0.22) : colors.raised;
        ctx.fillRect(from, y, to - from, row - 2);
        ctx.fillStyle = current ? colors.action : colors.soft;
        const pitches = part.notes.map((n) => n.pitch);
        const lowest = pitches.reduce((a, b) => Math.min(a, b), 127);
        const range = Math.max(1, pitches.reduce((a, b) => Math.max(a, b), 0) - lowest);
        ctx.beginPath();
        for (const note of part.notes) {
          const at = y + (row - 4) * (1 - (note.pitch - lowest) / range);
          ctx.rect(this.x(note.start), at, Math.max(1, this.x(note.length) - 0.5), 1.5);
        }
        ctx.fill();
      }
    });
  }

  private paintBars(ctx: CanvasRenderingContext2D): void {
    const colors = readPalette();
    const meter = meterOf(this.song());
    ctx.font = `12px ${NUMBER_FONT}`;
    ctx.textBaseline = 'middle';
    let last = -Infinity;
    for (let bar = 0; bar < this.view.end(); bar = meter.nextBarStart(bar)) {
      const x = this.x(bar);
      const number = meter.toBarBeat(bar).bar;
      if (x - last < 44 || (number - 1) % 4 !== 0) continue;
      last = x;
      ctx.fillStyle = colors.line;
      ctx.fillRect(Math.round(x), 0, 1, this.size.height);
      ctx.fillStyle = colors.soft;
      ctx.fillText(String(number), x + 4, RULER / 2);
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
    this.go(event);
  }

  protected drag(event: PointerEvent): void {
    if (event.buttons === 1) this.go(event);
  }

  private go(event: PointerEvent): void {
    const tick = (event.offsetX / this.size.width) * this.view.end();
    this.view.scrollTo(tick - this.view.notesWidth() / this.view.scale() / 2);
  }
}
