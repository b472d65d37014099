import { NgComponentOutlet } from '@angular/common';
import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  type ElementRef,
  inject,
  signal,
  untracked,
  viewChild,
} from '@angular/core';
import { isDrums } from '@early-sparrow/core/sound';
import { meterOf } from '@early-sparrow/core/song';
import { Theme } from '../../common/theme';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { noteWords, type NoteWords } from '../hand/note-words';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Feedback } from '../kit/feedback';
import { LANES } from '../kit/lane';
import { OVERLAYS } from '../kit/overlay';
import { takingBack } from '../kit/taking-back';
import type { Gesture, Under } from '../kit/pointer';
import { Pointing } from '../kit/pointing';
import { ALL_PITCHES, KEYS_WIDTH, Viewport } from '../kit/viewport';
import { LANE_HEAD } from './draw-lane';
import { Gestures } from './gestures';
import { OffsetLane } from './offset-lane';
import { Reaching } from './reaching';
import { TimingPainter } from './timing-painter';

/** The pointer must go this far before pressing becomes dragging, in px. */
const DRAG_PX = 4;

/** The roll with its ruler, and the lanes under it. */
@Component({
  selector: 'es-timing-view',
  imports: [NgComponentOutlet],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div
      #host
      class="canvas"
      tabindex="0"
      role="application"
      [attr.aria-label]="label()"
      [style.cursor]="cursor()"
      (wheel)="wheel($event)"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (dblclick)="double($event)"
      (pointercancel)="lost($event)"
      (lostpointercapture)="lost($event)"
      (pointerleave)="leave()"
      (contextmenu)="$event.preventDefault()"
      (keydown)="key($event)"
    ></div>
    <!-- Its own element: moving it does not paint a canvas sixty times a second. -->
    <div class="playhead" [hidden]="playheadX() < 0" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>
    @for (head of heads(); track head.id) {
      <div class="lane-head" [style.top.px]="head.top" [style.height.px]="laneHead">
        <ng-container *ngComponentOutlet="head.component" />
      </div>
    }
    @if (tip(); as t) {
      <div class="tip" [style.left.px]="t.x" [style.top.px]="t.y">
        <b>{{ t.words.name }}</b>
        @for (line of t.words.lines; track $index) {
          <span [class]="$first ? t.words.lean : ''">{{ line }}</span>
        }
      </div>
    }
    <p class="unseen" aria-live="polite">{{ reaching.spoken() }}</p>
  `,
  styleUrl: './timing-view.scss',
})
export class TimingView {
  protected readonly view = inject(Viewport);
  private readonly scenery = inject(Scenery);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly listening = inject(ListeningSettings);
  private readonly selecting = inject(Selecting);
  private readonly gestures = inject(Gestures);
  private readonly feedback = inject(Feedback);
  private readonly pointing = inject(Pointing);
  protected readonly reaching = inject(Reaching);
  private readonly offsets = inject(OffsetLane);
  private readonly lanes = [...inject(LANES)].sort((a, b) => a.order - b.order);
  private readonly overlays = inject(OVERLAYS, { optional: true }) ?? [];
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  protected readonly laneHead = LANE_HEAD;
  protected readonly cursor = signal('default');
  protected readonly hover = signal<{ x: number; y: number; under: Under | null } | null>(null);

  protected readonly heads = computed(() =>
    this.lanes.flatMap(({ id, head }) => {
      const { top, height } = this.view.frameOf(id);
      return head && height > 0 ? [{ id, top, component: head }] : [];
    }),
  );
  private readonly cursorIndex = computed(() => {
    const id = this.reaching.cursor();
    return id === null ? -1 : this.scenery.picture().part.notes.findIndex((n) => n.id === id);
  });
  protected readonly label = computed(
    () =>
      `Notes of ${this.scenery.track().name}. Left and right arrows go from note to note, with Shift they select more; ` +
      `with Alt they move the selected notes. Plus and minus zoom.`,
  );

  /** Where the playhead is, in px; −1 where it is out of sight. */
  protected readonly playheadX = computed(() => {
    const x = this.view.x(this.player.position());
    return x < KEYS_WIDTH || x > this.view.width() ? -1 : x;
  });

  /** What a note under the pointer is, or what a drag does so far. */
  protected readonly tip = computed((): { x: number; y: number; words: NoteWords } | null => {
    const h = this.hover();
    if (!h) return null;
    const hint = this.feedback.hint() ?? h.under?.hint ?? null;
    const { picture, corrected, song, track } = this.scenery;
    const note = h.under?.note ?? -1;
    const words = hint
      ? ({ name: hint, lines: [], lean: 'on-line' } as const)
      : note < 0 || note >= picture().count
        ? null
        : noteWords(note, picture(), corrected(), song(), track());
    if (!words) return null;
    return { x: Math.min(h.x + 14, this.view.width() - 250), y: Math.min(h.y + 14, this.view.height() - 96), words };
  });

  private painter: TimingPainter | null = null;
  private drag: { gesture: Gesture; under: Under; x: number; y: number; pointer: number; moved: boolean } | null = null;
  private fitted = '';

  constructor() {
    this.view.lanes.set(this.lanes);
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const element = this.host().nativeElement;
      this.painter = new TimingPainter(element, this.view, {
        scenery: this.scenery,
        lanes: this.lanes,
        overlays: this.overlays,
        loop: this.player.loop,
        loopOn: this.player.loopOn,
        selected: this.selecting.chosen,
        cursor: this.cursorIndex,
        box: this.feedback.box,
      });
      const observer = new ResizeObserver(() => this.resize(element));
      observer.observe(element);
      this.resize(element);
      // Canvas text does not wait for fonts by itself.
      void document.fonts.ready.then(() => this.painter?.redraw());
      takingBack(
        destroy,
        () => this.drag !== null,
        () => this.cancel(),
      );
      destroy.onDestroy(() => {
        observer.disconnect();
        this.painter?.destroy();
      });
    });
    effect(() => {
      void [this.scenery.picture(), this.scenery.corrected(), this.scenery.treatment(), this.theme.name()];
      for (const lane of this.lanes) lane.depends();
      this.readView();
      this.painter?.redraw();
    });
    effect(() => {
      void [this.player.loop(), this.player.loopOn(), this.theme.name(), this.cursorIndex()];
      void [this.selecting.ids(), this.feedback.box(), this.scenery.picture(), this.scenery.corrected()];
      for (const overlay of this.overlays) overlay.depends();
      this.readView();
      this.painter?.redrawOverlay();
    });
    effect(() => this.fitTrack());
    effect(() => this.keepPlayheadInView());
  }

  private readView(): void {
    const v = this.view;
    void [v.width(), v.height(), v.left(), v.scale(), v.topRow(), v.pitches(), v.rowHeight(), v.rollHeight()];
  }

  private resize(element: HTMLElement): void {
    const { clientWidth, clientHeight } = element;
    if (clientWidth === 0 || clientHeight === 0) return;
    this.painter?.resize(clientWidth, clientHeight);
    this.view.width.set(clientWidth);
    this.view.height.set(clientHeight);
    // The roll keeps most of what there is, however little that is.
    this.offsets.height.set(Math.round(Math.max(64, Math.min(220, clientHeight * 0.36))));
  }

  /** A track that is chosen for the first time is shown from its first notes on, a few bars wide. */
  private fitTrack(): void {
    const { id } = this.scenery.part();
    if (this.view.width() === 0 || this.fitted === id) return;
    const first = this.fitted === '';
    this.fitted = id;
    const picture = untracked(this.scenery.picture);
    const meter = meterOf(this.scenery.song());
    const used = [...new Set(picture.pitch)].sort((a, b) => a - b);
    const drums = isDrums(this.scenery.track()) && used.length > 0;
    untracked(() => {
      this.view.fitPitches(drums ? used : ALL_PITCHES, picture.lowest, picture.highest, drums ? 32 : 20);
      const { start } = this.scenery.part();
      const begin = meter.barStartAt(Math.max(picture.own.at(0) ?? start, start));
      const left = this.view.left();
      const right = this.view.right();
      const bars = this.view.notesWidth() < 500 ? 1 : 2.5;
      if (first) this.view.fitTime(begin, begin + meter.pieceAt(begin).barTicks * bars);
      else if (!picture.own.some((t) => t >= left && t < right)) this.view.scrollTo(begin - 12 / this.view.scale());
      this.reaching.cursor.set(null);
    });
  }

  private keepPlayheadInView(): void {
    const position = this.player.position();
    if (!this.player.playing() || !this.listening.values().follow) return;
    const { view } = this;
    const visible = view.notesWidth() / view.scale();
    if (position > view.right() - visible * 0.08 || position < view.left()) view.scrollTo(position - visible * 0.08);
  }

  protected wheel(event: WheelEvent): void {
    event.preventDefault();
    const { offsetX } = event;
    if (event.ctrlKey || event.metaKey) this.view.zoom(offsetX, Math.exp(-event.deltaY * 0.002));
    else if (event.shiftKey) this.view.scroll(event.deltaY || event.deltaX, 0);
    else this.view.scroll(event.deltaX, event.deltaY);
  }

  protected down(event: PointerEvent): void {
    if (this.drag || event.button > 1) return;
    const { offsetX: x, offsetY: y, pointerId: pointer } = event;
    this.drag = { gesture: this.gestures.begin(event), under: this.gestures.under(event), x, y, pointer, moved: false };
    this.host().nativeElement.setPointerCapture(pointer);
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    const { offsetX: x, offsetY: y } = event;
    if (!drag) {
      this.pointing.move(event);
      const under = this.gestures.under(event);
      this.hover.set({ x, y, under });
      this.cursor.set(under.cursor);
      return;
    }
    // Another finger steers nothing that the first one began.
    if (drag.pointer !== event.pointerId) return;
    if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < DRAG_PX) return;
    drag.moved = true;
    drag.gesture.move(event);
    this.hover.set({ x, y, under: null });
  }

  protected leave(): void {
    this.hover.set(null);
    this.pointing.leave();
  }

  protected up(event: PointerEvent): void {
    const { drag } = this;
    if (drag?.pointer !== event.pointerId) return;
    this.drag = null;
    if (drag.moved) drag.gesture.drop(event);
    else if (event.button === 0) drag.under.click?.(event);
  }

  protected double(event: MouseEvent): void {
    this.gestures.under(event).double?.(event);
  }

  protected lost(event: PointerEvent): void {
    if (this.drag?.pointer === event.pointerId) this.cancel();
  }

  /** Takes back a drag on its way: by Escape, or when the pointer is lost. */
  private cancel(): void {
    const { drag } = this;
    this.drag = null;
    if (drag?.moved) drag.gesture.cancel();
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      const from = this.cursorIndex();
      const last = this.scenery.picture().count - 1;
      if (last < 0) return;
      const to = from < 0 ? this.firstInView() : Math.max(0, Math.min(last, from + step));
      if (to !== from) this.reaching.reach(to, event.shiftKey);
      this.reveal(to);
    } else if (event.key === '+' || event.key === '=') this.view.zoom(this.view.width() / 2, 1.25);
    else if (event.key === '-') this.view.zoom(this.view.width() / 2, 0.8);
  }

  private firstInView(): number {
    const left = Math.max(this.view.left(), 0);
    const found = this.scenery.picture().own.findIndex((t) => t >= left);
    return Math.max(0, found);
  }

  private reveal(note: number): void {
    const start = this.scenery.picture().now[note];
    const x = this.view.x(start);
    if (x < KEYS_WIDTH + 20 || x > this.view.width() - 60) {
      this.view.scrollTo(start - this.view.notesWidth() / this.view.scale() / 3);
    }
  }
}
