import {
  afterNextRender,
  computed,
  ChangeDetectionStrategy,
  Component,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  signal,
  viewChild,
} from '@angular/core';
import { meterOf, noteCount, type Song } from '@early-sparrow/core/song';
import { readPalette, Theme } from '../../common/theme';
import { HEAVY, Rest } from '../../common/unhurried';
import { AudioFiles } from '../../sound/audio-files';
import { Player } from '../../sound/player';
import { Canvas, type DrawnLayer } from '../kit/canvas';
import { faint, TEXT_FONT } from '../kit/draw';
import { EdgeScroll } from '../kit/edge-scroll';
import { placeOf, type At, type Gesture } from '../kit/pointer';
import { takingBack } from '../kit/taking-back';
import { Viewport } from '../kit/viewport';
import { ChosenParts } from '../hand/chosen-parts';
import { drawBars, drawTracks, type Sheet } from './draw-song';
import { isDrag, PartsGesture } from './parts-gesture';
import { RULER, SongRows } from './song-rows';

/** What is pressed. */
interface Pressed {
  readonly from: At;
  readonly pointer: number;
  readonly gesture: Gesture | null;
  dragged: boolean;
  last: At;
}

/** All tracks over the whole song, with the loop and the stretch that the roll shows; drawn taller it is the song view. */
@Component({
  selector: 'es-overview',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<div
      #host
      class="canvas"
      [style.cursor]="cursor()"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (pointercancel)="cancel()"
      (dblclick)="gesture.draw($event)"
      (wheel)="wheel($event)"
    ></div>
    <div class="playhead" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>`,
  styles: `
    :host {
      display: block;
      position: relative;
      min-width: 0;
      overflow: hidden;
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
  readonly current = input.required<string | null>();

  private readonly view = inject(Viewport);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly rows = inject(SongRows);
  private readonly files = inject(AudioFiles);
  private readonly chosen = inject(ChosenParts);
  protected readonly gesture = inject(PartsGesture);
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  private layers: { notes: DrawnLayer; overlay: DrawnLayer } | null = null;
  protected readonly playheadX = computed(() => this.rows.x(this.player.position()));
  protected readonly cursor = signal('default');
  private pressed: Pressed | null = null;
  private readonly edge = new EdgeScroll({
    edges: () => ({ left: -Infinity, right: Infinity, top: RULER, bottom: this.rows.height() }),
    scroll: (_dx, dy) => {
      const top = this.rows.top();
      this.rows.scroll(dy);
      return this.rows.top() !== top;
    },
    scrolled: () => this.scrolled(),
  });

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
        this.rows.width.set(element.clientWidth);
        this.rows.height.set(element.clientHeight);
        canvas.resize(element.clientWidth, element.clientHeight);
      });
      observer.observe(element);
      takingBack(
        destroy,
        () => this.pressed?.dragged === true && this.pressed.gesture !== null,
        () => this.cancel(),
      );
      destroy.onDestroy(() => {
        observer.disconnect();
        canvas.destroy();
      });
    });
    const rest = new Rest();
    effect((onCleanup) => {
      void [this.current(), this.chosen.ids(), this.theme.name(), this.rows.end()];
      void [this.rows.row(), this.rows.top(), this.rows.width(), this.rows.height(), this.files.peaks()];
      const notes = this.rows.tracks().reduce((sum, t) => sum + noteCount(t), 0);
      if (notes <= HEAVY) this.layers?.notes.redraw();
      else onCleanup(rest.wait(() => this.layers?.notes.redraw()));
    });
    effect(() => {
      void [this.view.left(), this.view.scale(), this.view.width(), this.rows.row(), this.rows.top()];
      void [this.player.loop(), this.player.loopOn(), this.theme.name(), this.gesture.ghosts(), this.gesture.frame()];
      this.layers?.overlay.redraw();
    });
  }

  private sheet(ctx: CanvasRenderingContext2D): Sheet {
    ctx.clearRect(0, 0, this.rows.width(), this.rows.height());
    return { ctx, rows: this.rows, colors: readPalette(), peaks: this.files.peaks() };
  }

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    const sheet = this.sheet(ctx);
    drawBars(sheet, meterOf(this.song()), this.rows.end());
    drawTracks(sheet, this.current(), new Set(this.chosen.ids()));
  }

  private paintOverlay(ctx: CanvasRenderingContext2D): void {
    const { colors, rows } = this.sheet(ctx);
    const loop = this.player.loop();
    if (loop.to > loop.from) {
      ctx.fillStyle = faint(colors.action, this.player.loopOn() ? 0.3 : 0.12);
      ctx.fillRect(rows.x(loop.from), 0, rows.x(loop.to) - rows.x(loop.from), RULER - 2);
    }
    const left = rows.x(Math.max(0, this.view.left()));
    const right = rows.x(Math.min(this.view.end(), this.view.right()));
    ctx.strokeStyle = colors.ink;
    ctx.lineWidth = 1.5;
    ctx.beginPath();
    // Over the song view the frame of what the roll shows would lie over the parts: there it stays in the ruler.
    const height = rows.arranges() ? RULER : rows.height();
    ctx.roundRect(left + 0.75, 0.75, Math.max(4, right - left - 1.5), height - 2, 4);
    ctx.stroke();
    ctx.lineWidth = 1;
    const frame = this.gesture.frame();
    for (const box of [...this.gesture.ghosts().map((g) => g.box), ...(frame ? [frame] : [])]) {
      ctx.fillStyle = faint(colors.action, 0.18);
      ctx.strokeStyle = colors.action;
      ctx.fillRect(box.x, box.y, box.w, box.h);
      ctx.strokeRect(box.x + 0.5, box.y + 0.5, box.w, box.h);
    }
    for (const { box, words } of this.gesture.ghosts()) if (words) this.paintWords(ctx, words, box.x, box.y + box.h);
  }

  private paintWords(ctx: CanvasRenderingContext2D, words: string, x: number, y: number): void {
    const colors = readPalette();
    ctx.font = `12px ${TEXT_FONT}`;
    ctx.textAlign = 'left';
    ctx.textBaseline = 'middle';
    const width = ctx.measureText(words).width + 12;
    const at = { x: Math.max(0, Math.min(this.rows.width() - width, x)), y: Math.min(this.rows.height() - 22, y + 4) };
    ctx.fillStyle = colors.paper;
    ctx.fillRect(at.x, at.y, width, 20);
    ctx.strokeStyle = colors.line;
    ctx.strokeRect(at.x + 0.5, at.y + 0.5, width - 1, 19);
    ctx.fillStyle = colors.ink;
    ctx.fillText(words, at.x + 6, at.y + 10.5);
  }

  protected down(event: PointerEvent): void {
    if (event.button !== 0 || this.pressed) return;
    this.host().nativeElement.setPointerCapture(event.pointerId);
    const from = placeOf(event);
    const gesture = this.gesture.begin(from, () => this.go(from));
    this.pressed = { from, pointer: event.pointerId, gesture, dragged: false, last: from };
    if (!gesture) this.go(from);
  }

  protected move(event: PointerEvent): void {
    if (!this.pressed) this.cursor.set(this.gesture.cursor(event));
    const { pressed } = this;
    if (event.pointerId !== pressed?.pointer) return;
    pressed.last = placeOf(event);
    pressed.dragged ||= isDrag(pressed.from, event);
    if (!pressed.gesture) {
      if (pressed.dragged) this.go(event);
      return;
    }
    pressed.gesture.move(pressed.last);
    if (pressed.dragged) this.edge.at(pressed.last, pressed.gesture.scrolls);
  }

  /** A press makes another part the current one; a drag in the low overview only goes through the song. */
  protected up(event: PointerEvent): void {
    const { pressed } = this;
    if (event.pointerId !== pressed?.pointer) return;
    this.pressed = null;
    this.edge.end();
    if (pressed.gesture) pressed.gesture.drop(event);
    else if (!pressed.dragged) {
      const seen = this.rows.partAt(event.offsetX, event.offsetY);
      if (seen) this.chosen.select(seen.track.id, seen.part.id);
    }
  }

  protected cancel(): void {
    this.pressed?.gesture?.cancel();
    this.pressed = null;
    this.edge.end();
  }

  protected wheel(event: WheelEvent): void {
    if (event.ctrlKey || !this.rows.arranges() || !this.rows.scroll(event.deltaY)) return;
    event.preventDefault();
    this.scrolled();
  }

  /** The rows were scrolled: what is dragged is over another one now. */
  private scrolled(): void {
    if (this.pressed?.dragged) this.pressed.gesture?.move(this.pressed.last);
  }

  private go(event: At): void {
    this.view.scrollTo(this.rows.tick(event.offsetX) - this.view.notesWidth() / this.view.scale() / 2);
  }
}
