import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  input,
  signal,
  viewChild,
} from '@angular/core';
import { stepTicks } from '@early-sparrow/core/grid';
import { describeTicks } from '@early-sparrow/core/time';
import { isDrums, percussionName } from '@early-sparrow/core/sound';
import { meterOf, tempoOf, type Song, type Track } from '@early-sparrow/core/song';
import { pitchName, shortMs } from '../common/format';
import { readPalette, Theme } from '../common/theme';
import { Player } from '../sound/player';
import { Canvas, type DrawnLayer } from './canvas';
import { clipped, faint } from './draw';
import { drawGrid } from './draw-grid';
import { drawLane, laneY } from './draw-lane';
import { drawNotes } from './draw-notes';
import { Gestures, type Drag } from './gestures';
import { pictureOf, type Picture } from './picture';
import { Selecting } from './selecting';
import { Treating } from './treating';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from './viewport';

/** The roll with its ruler, and the offset lane under it. */
@Component({
  selector: 'es-timing-view',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      #host
      class="canvas"
      tabindex="0"
      role="application"
      [attr.aria-label]="label()"
      (wheel)="wheel($event)"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (pointerleave)="hover.set(null)"
      (keydown)="key($event)"
    ></div>
    <!-- Its own element: moving it does not paint a canvas sixty times a second. -->
    <div class="playhead" [hidden]="playheadX() < 0" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>
    @if (hover(); as h) {
      <div class="tip" [style.left.px]="h.x" [style.top.px]="h.y">
        <b>{{ h.name }}</b>
        @for (line of h.lines; track $index) {
          <span [class]="h.lean">{{ line }}</span>
        }
      </div>
    }
    @if (lean(); as l) {
      <button class="lean" [class]="l.side" [style.top.px]="l.y" (click)="takeAway(l.ms)">
        {{ l.text }} <b>Take it away</b>
      </button>
    }
    <p class="unseen" aria-live="polite">{{ spoken() }}</p>
  `,
  styles: `
    :host {
      position: relative;
      display: block;
      min-width: 0;
      min-height: 0;
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
      width: 1.5px;
      background: var(--ink);
      pointer-events: none;
      will-change: transform;
    }
    .playhead::before {
      content: '';
      position: absolute;
      left: -4.5px;
      border: 5px solid transparent;
      border-top: 8px solid var(--ink);
    }
    .lean {
      position: absolute;
      left: 50%;
      transform: translate(-50%, -50%);
      padding: 2px 12px;
      border: 1px solid currentColor;
      border-radius: 14px;
      background: var(--paper);
      font: inherit;
      font-size: 13px;
      cursor: pointer;
    }
    .tip {
      position: absolute;
      pointer-events: none;
      display: grid;
      padding: 6px 10px;
      border-radius: 6px;
      background: var(--paper);
      border: 1px solid var(--line);
      font-size: 13px;
      line-height: 1.35;
      white-space: nowrap;
    }
  `,
})
export class TimingView {
  readonly song = input.required<Song>();
  readonly track = input.required<Track>();
  readonly corrected = input.required<boolean>();

  private readonly view = inject(Viewport);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly gestures = inject(Gestures);
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  protected readonly hover = signal<{ x: number; y: number; name: string; lines: string[]; lean: string } | null>(null);
  protected readonly spoken = signal('');
  private readonly chosen = signal(-1);

  private readonly picture = computed((): Picture => pictureOf(this.track().parts[0], this.song()));
  protected readonly label = computed(
    () => `Notes of ${this.track().name}. Left and right arrows go from note to note, plus and minus zoom.`,
  );

  /** A steady lean of all the chords, with the way out on it. */
  protected readonly lean = computed(() => {
    const picture = this.picture();
    const { lag } = picture.part.treatment;
    const ms = picture.medianMs - (lag.on && lag.amount.unit === 'ms' ? lag.amount.value : 0);
    // Offsets that lie all over have a median too, but it is no lean.
    if (this.view.height() === 0 || Math.abs(ms) < 5 || picture.spreadMs > Math.abs(picture.medianMs)) return null;
    const y = laneY({ view: this.view }, picture, picture.medianMs);
    const side = ms < 0 ? 'early' : 'late';
    return { ms: Math.round(picture.medianMs * 10) / 10, y, side, text: `${shortMs(ms)} ms ${side} throughout.` };
  });

  protected takeAway(ms: number): void {
    this.treating.commit('Lag', { lag: { on: true, amount: { value: ms, unit: 'ms' } } });
  }

  /** Where the playhead is, in px; −1 where it is out of sight. */
  protected readonly playheadX = computed(() => {
    const x = this.view.x(this.player.position());
    return x < KEYS_WIDTH || x > this.view.width() ? -1 : x;
  });

  private canvas: Canvas | null = null;
  private layers: { grid: DrawnLayer; notes: DrawnLayer; overlay: DrawnLayer } | null = null;
  private drag: Drag | null = null;
  private fitted = '';

  constructor() {
    this.gestures.attach({ song: this.song, picture: this.picture, corrected: this.corrected });
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const element = this.host().nativeElement;
      const canvas = new Canvas(element);
      this.canvas = canvas;
      this.layers = {
        grid: canvas.layer((ctx) => this.paintGrid(ctx)),
        notes: canvas.layer((ctx) => this.paintNotes(ctx)),
        overlay: canvas.layer((ctx) => this.paintOverlay(ctx)),
      };
      const observer = new ResizeObserver(() => this.resize(element));
      observer.observe(element);
      this.resize(element);
      // Canvas text does not wait for fonts by itself.
      void document.fonts.ready.then(() => this.layers?.grid.redraw());
      destroy.onDestroy(() => {
        observer.disconnect();
        canvas.destroy();
      });
    });
    effect(() => {
      this.picture();
      this.corrected();
      this.theme.name();
      this.readView();
      this.layers?.grid.redraw();
      this.layers?.notes.redraw();
    });
    effect(() => {
      this.player.loop();
      this.player.loopOn();
      this.theme.name();
      this.chosen();
      this.selecting.ids();
      this.gestures.box();
      this.picture();
      this.readView();
      this.layers?.overlay.redraw();
    });
    effect(() => this.fitTrack());
    effect(() => this.keepPlayheadInView());
  }

  private readView(): void {
    const v = this.view;
    void [v.width(), v.height(), v.left(), v.scale(), v.topRow(), v.pitches(), v.rowHeight(), v.laneHeight()];
  }

  private resize(element: HTMLElement): void {
    const { clientWidth, clientHeight } = element;
    if (clientWidth === 0 || clientHeight === 0) return;
    this.canvas?.resize(clientWidth, clientHeight);
    this.view.width.set(clientWidth);
    this.view.height.set(clientHeight);
    this.view.laneHeight.set(Math.round(Math.max(120, Math.min(220, clientHeight * 0.34))));
  }

  /** A track that is chosen for the first time is shown from its first notes on, a few bars wide. */
  private fitTrack(): void {
    const { id } = this.track();
    if (this.view.width() === 0 || this.fitted === id) return;
    const first = this.fitted === '';
    this.fitted = id;
    const picture = this.picture();
    const meter = meterOf(this.song());
    const used = [...new Set(picture.pitch)].sort((a, b) => a - b);
    const drums = isDrums(this.track());
    this.view.fitPitches(drums ? used : ALL_PITCHES, picture.lowest, picture.highest, drums ? 32 : 20);
    const begin = meter.barStartAt(Math.max(picture.played[0], this.track().parts[0].start));
    const left = this.view.left();
    const right = this.view.right();
    if (first) this.view.fitTime(begin, begin + meter.pieceAt(begin).barTicks * 2.5);
    else if (!picture.played.some((t) => t >= left && t < right)) this.view.scrollTo(begin - 12 / this.view.scale());
    this.chosen.set(-1);
  }

  private keepPlayheadInView(): void {
    const position = this.player.position();
    if (!this.player.playing()) return;
    const { view } = this;
    const visible = view.notesWidth() / view.scale();
    if (position > view.right() - visible * 0.08 || position < view.left()) view.scrollTo(position - visible * 0.08);
  }

  private scene(ctx: CanvasRenderingContext2D) {
    return { ctx, view: this.view, colors: readPalette() };
  }

  private paintGrid(ctx: CanvasRenderingContext2D): void {
    if (this.view.width() === 0) return;
    drawGrid(this.scene(ctx), meterOf(this.song()), this.picture().lines, isDrums(this.track()));
  }

  private paintNotes(ctx: CanvasRenderingContext2D): void {
    if (this.view.width() === 0) return;
    const scene = this.scene(ctx);
    ctx.clearRect(0, 0, this.view.width(), this.view.height());
    drawNotes(scene, this.picture(), this.corrected(), this.song().ppq);
    drawLane(scene, this.picture(), this.corrected());
  }

  private paintOverlay(ctx: CanvasRenderingContext2D): void {
    const { view } = this;
    ctx.clearRect(0, 0, view.width(), view.height());
    const { colors } = this.scene(ctx);
    const loop = this.player.loop();
    if (loop.to > loop.from) {
      const from = Math.max(KEYS_WIDTH, view.x(loop.from));
      const to = Math.min(view.width(), view.x(loop.to));
      if (to > from) {
        ctx.fillStyle = faint(colors.action, this.player.loopOn() ? 0.28 : 0.12);
        ctx.fillRect(from, 0, to - from, 6);
      }
    }
    this.paintSelection(ctx);
    const box = this.gestures.box();
    if (box) {
      ctx.fillStyle = faint(colors.action, 0.12);
      ctx.strokeStyle = colors.action;
      ctx.fillRect(box.x, box.y, box.w, box.h);
      ctx.strokeRect(box.x, box.y, box.w, box.h);
    }
  }

  private paintSelection(ctx: CanvasRenderingContext2D): void {
    const { view } = this;
    const picture = this.picture();
    const ids = new Set(this.selecting.ids());
    const chosen = this.chosen();
    if (ids.size === 0 && chosen < 0) return;
    const starts = this.corrected() ? picture.corrected : picture.played;
    const ends = this.corrected() ? picture.correctedEnd : picture.playedEnd;
    clipped(ctx, KEYS_WIDTH, RULER_HEIGHT, view.notesWidth(), view.rollHeight(), () => {
      ctx.strokeStyle = readPalette().ink;
      ctx.lineWidth = 2;
      ctx.beginPath();
      this.track().parts[0].notes.forEach((note, i) => {
        if (!ids.has(note.id) && i !== chosen) return;
        const x = view.x(starts[i]);
        if (x > view.width()) return;
        ctx.rect(x - 1, view.y(picture.pitch[i]) + 0.5, (ends[i] - starts[i]) * view.scale() + 2, view.rowHeight() - 1);
      });
      ctx.stroke();
      ctx.lineWidth = 1;
    });
  }

  protected wheel(event: WheelEvent): void {
    event.preventDefault();
    const { offsetX } = event;
    if (event.ctrlKey || event.metaKey) this.view.zoom(offsetX, Math.exp(-event.deltaY * 0.002));
    else if (event.shiftKey) this.view.scroll(event.deltaY || event.deltaX, 0);
    else this.view.scroll(event.deltaX, event.deltaY);
  }

  protected down(event: PointerEvent): void {
    const { offsetX: x, offsetY: y } = event;
    const note = this.gestures.noteUnder(x, y);
    this.drag = { x, y, kind: this.gestures.dragKind(event, note), note, lastX: x, lastY: y, moved: false };
    this.host().nativeElement.setPointerCapture(event.pointerId);
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    if (!drag) return this.point(event.offsetX, event.offsetY);
    const dx = event.offsetX - drag.x;
    const dy = event.offsetY - drag.y;
    if (!drag.moved && Math.hypot(dx, dy) < 4) return;
    drag.moved = true;
    this.gestures.dragTo(drag, event, false);
    drag.lastX = event.offsetX;
    drag.lastY = event.offsetY;
  }

  protected up(event: PointerEvent): void {
    const { drag } = this;
    this.drag = null;
    if (!drag) return;
    if (drag.moved) {
      this.gestures.dragTo(drag, event, true);
      return;
    }
    if (drag.y < RULER_HEIGHT) {
      this.player.seek(Math.max(0, this.view.tick(event.offsetX)));
      return;
    }
    if (drag.x < KEYS_WIDTH) {
      this.gestures.selectKey(drag.y);
      return;
    }
    this.choose(drag.note);
    const id = this.track().parts[0].notes[drag.note]?.id;
    if (id === undefined) this.selecting.select([]);
    else if (event.shiftKey) this.selecting.select([...new Set([...this.selecting.ids(), id])]);
    else this.selecting.select([id]);
  }

  protected key(event: KeyboardEvent): void {
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (step !== undefined && !event.ctrlKey && !event.metaKey) {
      event.preventDefault();
      const { count } = this.picture();
      this.choose(Math.max(0, Math.min(count - 1, this.chosen() < 0 ? 0 : this.chosen() + step)));
      this.reveal(this.chosen());
    } else if (event.key === '+' || event.key === '=') this.view.zoom(this.view.width() / 2, 1.25);
    else if (event.key === '-') this.view.zoom(this.view.width() / 2, 0.8);
  }

  private point(x: number, y: number): void {
    const note = this.gestures.noteUnder(x, y);
    if (note < 0) {
      this.hover.set(null);
      return;
    }
    const { name, lines, lean } = this.describe(note);
    const left = Math.min(x + 14, this.view.width() - 250);
    this.hover.set({ x: left, y: Math.min(y + 14, this.view.height() - 76), name, lines, lean });
  }

  private choose(note: number): void {
    this.chosen.set(note);
    if (note < 0) return;
    const { name, lines } = this.describe(note);
    this.spoken.set(`${name}, ${lines[0]}`);
  }

  private reveal(note: number): void {
    const x = this.view.x(this.picture().played[note]);
    if (x < KEYS_WIDTH + 20 || x > this.view.width() - 60) {
      this.view.scrollTo(this.picture().played[note] - this.view.notesWidth() / this.view.scale() / 3);
    }
  }

  /** A note in words: what it is, where, and how far off in all three units. */
  private describe(note: number): { name: string; lines: string[]; lean: string } {
    const picture = this.picture();
    const song = this.song();
    const { bar, beat } = meterOf(song).toBarBeat(
      Number.isNaN(picture.line[note]) ? picture.played[note] : picture.line[note],
    );
    const pitch = picture.pitch[note];
    const name = `${isDrums(this.track()) ? percussionName(pitch) : pitchName(pitch)}, bar ${bar} beat ${beat}`;
    const ms = picture.before[note];
    if (Number.isNaN(ms)) return { name, lines: ['left as played'], lean: '' };
    const side = Math.abs(ms) < 0.05 ? 'on the line' : `${shortMs(ms)} ms ${ms < 0 ? 'early' : 'late'}`;
    const bpm = tempoOf(song).bpmAt(picture.played[note]);
    const ticks = Math.abs(picture.played[note] - picture.line[note]);
    const step = stepTicks(picture.part.treatment.quantize.grid, song.ppq);
    const lines = [side, describeTicks(ticks, song.ppq, bpm), `${Math.round((100 * ticks) / step)} % of a step`];
    const moved = picture.after[note];
    if (moved !== ms)
      lines.push(`corrected: ${shortMs(moved)} ms ${moved < 0 ? 'early' : moved > 0 ? 'late' : ''}`.trim());
    return { name, lines, lean: ['early', 'on-line', 'late', ''][picture.lean[note]] };
  }
}
