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
import { Theme } from '../../common/theme';
import { ListeningSettings } from '../../sound/listening-settings';
import { Player } from '../../sound/player';
import { Behind } from '../hand/behind';
import { noteWords, type NoteWords } from '../hand/note-words';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Feedback } from '../kit/feedback';
import { LANES } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import { OVERLAYS } from '../kit/overlay';
import { takingBack } from '../kit/taking-back';
import type { At, Gesture, Under } from '../kit/pointer';
import { Pointing } from '../kit/pointing';
import { KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../kit/viewport';
import { LANE_HEAD } from './draw-lane';
import { Gestures } from './gestures';
import { LongPress } from './long-press';
import { Reaching } from './reaching';
import { Showing } from './showing';
import { TimingPainter } from './timing-painter';
import { TwoFingers } from './two-fingers';
import { VerbStrip } from './verb-strip';

/** The pointer must go this far before pressing becomes dragging, in px. */
const DRAG_PX = 4;
/** What a finger covers, in px. */
const TOUCH_PX = 24;
/** A second press follows the first within so many ms. */
const AGAIN_MS = 450;

/** The roll with its ruler, and the lanes under it. */
@Component({
  selector: 'es-timing-view',
  imports: [NgComponentOutlet, VerbStrip],
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
      (contextmenu)="menu($event)"
      (keydown)="key($event)"
    ></div>
    <!-- Its own element: moving it does not paint a canvas sixty times a second. -->
    <div class="playhead" [hidden]="playheadX() < 0" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>
    @for (head of heads(); track head.id) {
      <div class="lane-head" [style.top.px]="head.top" [style.height.px]="laneHead">
        <ng-container *ngComponentOutlet="head.component; inputs: head.inputs" />
        <button
          class="fold"
          [title]="'Fold this lane'"
          [attr.aria-label]="'Fold the lane ' + head.name"
          (click)="book.toggle(head.id)"
        >
          ×
        </button>
      </div>
    }
    <es-verb-strip #verbs />
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
  private readonly behind = inject(Behind);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly listening = inject(ListeningSettings);
  private readonly selecting = inject(Selecting);
  private readonly gestures = inject(Gestures);
  private readonly feedback = inject(Feedback);
  private readonly pointing = inject(Pointing);
  protected readonly reaching = inject(Reaching);
  private readonly showing = inject(Showing);
  protected readonly book = inject(LaneBook);
  private readonly lanes = [...inject(LANES)].sort((a, b) => a.order - b.order);
  private readonly overlays = inject(OVERLAYS, { optional: true }) ?? [];
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  protected readonly laneHead = LANE_HEAD;
  protected readonly cursor = signal('default');
  protected readonly hover = signal<{ x: number; y: number; under: Under | null } | null>(null);

  protected readonly heads = computed(() =>
    this.lanes.flatMap(({ id, name, head, headInputs }) => {
      const { top, height } = this.view.frameOf(id);
      return head && height > 0 ? [{ id, name, top, component: head, inputs: headInputs }] : [];
    }),
  );
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
    const { corrected, song, track } = this.scenery;
    const note = hint || h.under?.note === undefined ? null : this.scenery.find(h.under.note);
    const words = hint
      ? ({ name: hint, lines: [], lean: 'on-line' } as const)
      : note && noteWords(note.index, note.picture, corrected(), song(), track());
    if (!words) return null;
    return { x: Math.min(h.x + 14, this.view.width() - 250), y: Math.min(h.y + 14, this.view.height() - 96), words };
  });

  private painter: TimingPainter | null = null;
  private readonly verbs = viewChild.required<VerbStrip>('verbs');
  private readonly fingers = new TwoFingers(this.view);
  private readonly press = new LongPress((event) => this.hold(event));
  private drag: { gesture: Gesture; under: Under; x: number; y: number; pointer: number; moved: boolean } | null = null;
  /** The press before, where the pointer was let go without moving. */
  private pressed: { readonly x: number; readonly y: number; readonly at: number } | null = null;
  private fitted = '';

  constructor() {
    this.view.lanes.set(this.lanes);
    this.pointing.cursor = () => this.cursorPlace();
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const element = this.host().nativeElement;
      this.painter = new TimingPainter(element, this.view, {
        scenery: this.scenery,
        lanes: this.lanes,
        behind: this.behind.pictures,
        overlays: this.overlays,
        loop: this.player.loop,
        loopOn: this.player.loopOn,
        selected: this.selecting.chosen,
        cursor: this.reaching.cursor,
        marked: this.feedback.marked,
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
      void [this.scenery.picture(), this.scenery.others(), this.scenery.corrected(), this.scenery.treatment()];
      void [this.behind.pictures(), this.theme.name()];
      for (const lane of this.lanes) lane.depends();
      this.readView();
      this.painter?.redraw();
    });
    effect(() => {
      void [this.player.loop(), this.player.loopOn(), this.theme.name(), this.reaching.cursor()];
      void [this.feedback.marked(), this.scenery.others()];
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
  }

  /** A track that is chosen for the first time is shown from its first notes on, a few bars wide. */
  private fitTrack(): void {
    const { id } = this.scenery.track();
    if (this.view.width() === 0 || this.fitted === id) return;
    const first = this.fitted === '';
    this.fitted = id;
    untracked(() => {
      this.showing.track(first);
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
    const { offsetX: x, offsetY: y, pointerId: pointer } = event;
    if (this.fingers.down(event)) {
      this.press.end();
      this.cancel();
      return;
    }
    if (this.drag || event.button > 1) return;
    this.host().nativeElement.setPointerCapture(pointer);
    const under = this.gestures.under(event);
    const verb = this.verbs().begin(event);
    const again = verb ?? (this.isSecond(event) ? this.gestures.again(event) : null);
    this.pressed = null;
    // What a second press begins is there at once; a first one has to move before it is a drag.
    this.drag = { gesture: again ?? this.gestures.begin(event), under, x, y, pointer, moved: again !== null };
    if (again) this.hover.set({ x, y, under: null });
    else this.press.begin(event);
  }

  /** Whether a press follows another one in the same place. */
  private isSecond({ offsetX, offsetY, pointerType, timeStamp }: PointerEvent): boolean {
    const { pressed } = this;
    const slack = pointerType === 'touch' ? TOUCH_PX : DRAG_PX;
    const near = pressed && Math.hypot(offsetX - pressed.x, offsetY - pressed.y) <= slack;
    return near === true && timeStamp - pressed.at < AGAIN_MS;
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    const { offsetX: x, offsetY: y } = event;
    if (this.fingers.move(event)) return;
    if (!drag) {
      this.pointing.move(event);
      const under = this.gestures.under(event);
      this.hover.set({ x, y, under });
      this.cursor.set(under.cursor);
      this.tellRow(x, y);
      return;
    }
    // Another finger steers nothing that the first one began.
    if (drag.pointer !== event.pointerId) return;
    const far = event.pointerType === 'touch' ? TOUCH_PX / 2 : DRAG_PX;
    if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < far) return;
    drag.moved = true;
    this.press.end();
    this.tellRow(x, y);
    drag.gesture.move(event);
    this.hover.set({ x, y, under: null });
  }

  private tellRow(x: number, y: number): void {
    this.feedback.row.set(x >= KEYS_WIDTH && y >= RULER_HEIGHT && y < this.view.rollBottom() ? y : null);
  }

  protected leave(): void {
    this.hover.set(null);
    this.feedback.row.set(null);
    this.pointing.leave();
  }

  protected up(event: PointerEvent): void {
    this.fingers.up(event);
    this.press.end();
    const { drag } = this;
    if (drag?.pointer !== event.pointerId) return;
    this.drag = null;
    if (drag.moved) {
      drag.gesture.drop(event);
      return;
    }
    this.pressed = { x: event.offsetX, y: event.offsetY, at: event.timeStamp };
    if (event.button === 0) drag.under.click?.(event);
  }

  /** The right button, or the menu key at the note cursor: what can be done there. */
  protected menu(event: MouseEvent): void {
    event.preventDefault();
    // A finger that stays tells by itself.
    if ((event as Partial<PointerEvent>).pointerType === 'touch') return;
    const key = event.button !== 2;
    const at = key ? this.cursorPlace() : event;
    this.hover.set(null);
    if (at) this.verbs().open(at);
  }

  /** A finger or a pen stays where it was put. */
  private hold(event: PointerEvent): void {
    this.cancel();
    this.verbs().open(event);
  }

  /** The middle of the note that the keyboard is at; null for none. */
  private cursorPlace(): At | null {
    const id = this.reaching.cursor();
    const note = id === null ? null : this.scenery.find(id);
    if (!note) return null;
    const { start, end } = this.scenery.placeOf(note);
    const offsetX = this.view.x((start + end) / 2);
    const offsetY = this.view.y(note.picture.pitch[note.index]) + this.view.rowHeight() / 2;
    return { offsetX, offsetY, button: 0, altKey: false, ctrlKey: false, metaKey: false, shiftKey: false };
  }

  protected double(event: MouseEvent): void {
    this.gestures.under(event).double?.(event);
  }

  protected lost(event: PointerEvent): void {
    this.fingers.up(event);
    this.press.end();
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
      this.step(step, event.shiftKey);
    } else if (event.key === '+' || event.key === '=') this.view.zoom(this.view.width() / 2, 1.25);
    else if (event.key === '-') this.view.zoom(this.view.width() / 2, 0.8);
  }

  /** Goes to the next note of the track, or the one before. */
  private step(by: number, more: boolean): void {
    const pictures = [this.scenery.picture(), ...this.scenery.others()].sort((a, b) => a.part.start - b.part.start);
    const all = pictures.flatMap((picture) => picture.part.notes.map(({ id }, index) => ({ picture, index, id })));
    if (all.length === 0) return;
    const id = this.reaching.cursor();
    const from = id === null ? -1 : all.findIndex((n) => n.id === id);
    const left = Math.max(this.view.left(), 0);
    const inView = () =>
      Math.max(
        0,
        all.findIndex(({ picture, index }) => picture.own[index] >= left),
      );
    const to = from < 0 ? inView() : Math.max(0, Math.min(all.length - 1, from + by));
    // From here on keys act at the note cursor, until the pointer moves again.
    this.pointing.leave();
    if (to !== from) this.reaching.reach(all[to], more);
    this.reveal(all[to]);
  }

  private reveal(note: SeenNote): void {
    const { start } = this.scenery.placeOf(note);
    const x = this.view.x(start);
    if (x < KEYS_WIDTH + 20 || x > this.view.width() - 60) {
      this.view.scrollTo(start - this.view.notesWidth() / this.view.scale() / 3);
    }
    this.view.reveal(note.picture.pitch[note.index]);
  }
}
