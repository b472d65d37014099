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
  untracked,
  viewChild,
} from '@angular/core';
import { isDrums } from '@early-sparrow/core/sound';
import { meterOf, tempoOf } from '@early-sparrow/core/song';
import { Theme } from '../../common/theme';
import { Player } from '../../sound/player';
import { Behind } from '../hand/behind';
import { noteWords, type NoteWords } from '../hand/note-words';
import { Ways } from '../hand/ways';
import { sameEach } from '@early-sparrow/core/maths';
import { notesLook } from '../hand/picture';
import { Scenery, type SeenNote } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Feedback } from '../kit/feedback';
import { LANES } from '../kit/lane';
import { LaneBook } from '../kit/lane-book';
import { OVERLAYS } from '../kit/overlay';
import { takingBack } from '../kit/taking-back';
import type { At } from '../kit/pointer';
import { Pointing } from '../kit/pointing';
import { KEYS_WIDTH, Viewport } from '../kit/viewport';
import { LANE_HEAD } from './draw-lane';
import { Gestures } from './gestures';
import { PlayheadInView } from './playhead-in-view';
import { Pressing } from './pressing';
import { Reaching } from './reaching';
import { Showing } from './showing';
import { TimingPainter } from './timing-painter';
import { VerbStrip } from './verb-strip';

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
      [style.cursor]="pressing.cursor()"
      (wheel)="wheel($event)"
      (pointerdown)="down($event)"
      (pointermove)="pressing.move($event)"
      (pointerup)="pressing.up($event)"
      (dblclick)="double($event)"
      (pointercancel)="pressing.lost($event)"
      (lostpointercapture)="pressing.lost($event)"
      (pointerleave)="pressing.leave()"
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
        @if (t.way) {
          <span class="way">{{ t.way }}</span>
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
  private readonly ways = inject(Ways);
  private readonly behind = inject(Behind);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly playhead = inject(PlayheadInView);
  private readonly selecting = inject(Selecting);
  private readonly gestures = inject(Gestures);
  private readonly feedback = inject(Feedback);
  private readonly pointing = inject(Pointing);
  protected readonly pressing = inject(Pressing);
  protected readonly reaching = inject(Reaching);
  private readonly showing = inject(Showing);
  protected readonly book = inject(LaneBook);
  private readonly lanes = [...inject(LANES)].sort((a, b) => a.order - b.order);
  /** As one value: what a lane finds its height by may change with every step of a drag. */
  private readonly laneHeights = computed(() => this.lanes.map((lane) => lane.height()).join());
  private readonly overlays = inject(OVERLAYS, { optional: true }) ?? [];
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  protected readonly laneHead = LANE_HEAD;

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
  protected readonly tip = computed((): { x: number; y: number; words: NoteWords; way: string } | null => {
    const h = this.pressing.hover();
    if (!h) return null;
    const hint = this.feedback.hint() ?? h.under?.hint ?? null;
    const { corrected, song, track } = this.scenery;
    const note = hint || h.under?.note === undefined ? null : this.scenery.find(h.under.note);
    const words = hint
      ? ({ name: hint, lines: [], lean: 'on-line' } as const)
      : note && noteWords(note.index, note.picture, corrected(), song(), track());
    if (!words) return null;
    // What it was played and is now stands in the words already.
    const way = note && corrected() ? this.ways.of(note).slice(1, -1).join(' → ') : '';
    const room = way ? 132 : 96;
    return {
      x: Math.min(h.x + 14, this.view.width() - 250),
      y: Math.min(h.y + 14, this.view.height() - room),
      words,
      way,
    };
  });

  /** What the notes are drawn from: not their velocities. Other parts are drawn with their names. */
  private readonly notesLooks = computed(
    (): readonly unknown[] => {
      const { scenery } = this;
      const others = scenery.others();
      return others.length > 0 ? [scenery.picture(), ...others] : [scenery.song().ppq, ...notesLook(scenery.picture())];
    },
    { equal: sameEach },
  );

  private painter: TimingPainter | null = null;
  private readonly verbs = viewChild.required<VerbStrip>('verbs');
  private fitted = '';

  constructor() {
    this.view.lanes.set(this.lanes);
    this.pointing.cursor = () => this.cursorPlace();
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      this.pressing.armed = this.verbs();
      const element = this.host().nativeElement;
      this.painter = new TimingPainter(element, this.view, {
        scenery: this.scenery,
        lanes: this.lanes,
        behind: this.behind.pictures,
        lined: this.behind.lined,
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
        () => this.pressing.busy,
        () => this.pressing.cancel(),
      );
      destroy.onDestroy(() => {
        observer.disconnect();
        this.painter?.destroy();
      });
    });
    this.painting(
      () => this.gridLooks(),
      () => this.painter?.redrawGrid(),
    );
    this.painting(
      () => [...this.notesLooks(), this.scenery.corrected(), this.behind.pictures(), this.behind.lined()],
      () => this.painter?.redrawNotes(),
    );
    for (const lane of this.lanes) {
      this.painting(
        () => (lane.height() > 0 ? lane.looks() : []),
        () => this.painter?.redrawLane(lane),
      );
    }
    effect(() => {
      void [this.player.loop(), this.player.loopOn(), this.theme.name(), this.reaching.cursor()];
      void [this.feedback.marked(), this.notesLooks()];
      void [this.selecting.ids(), this.feedback.box(), this.scenery.corrected()];
      for (const overlay of this.overlays) overlay.depends();
      this.readView();
      this.painter?.redrawOverlay();
    });
    effect(() => this.fitTrack());
  }

  /** What the lines are found by: they are found anew with every change of the notes, and mostly the same. */
  private gridLooks(): readonly unknown[] {
    const { scenery } = this;
    const [own, song] = [scenery.part().treatment, scenery.song()];
    const lines = own.quantize.with ? scenery.picture().lines : null;
    return [lines, own, scenery.treatment(), meterOf(song), tempoOf(song), isDrums(scenery.track())];
  }

  /** Paints something anew when what it is painted from is another, or the view. */
  private painting(looks: () => readonly unknown[], paint: () => void): void {
    const now = computed(looks, { equal: sameEach });
    effect(() => {
      void [now(), this.theme.name()];
      this.readView();
      paint();
    });
  }

  private readView(): void {
    const v = this.view;
    void [v.width(), v.height(), v.left(), v.scale(), v.topRow(), v.pitches(), v.rowHeight(), v.rollHeight()];
    this.laneHeights();
  }

  private resize(element: HTMLElement): void {
    const { clientWidth, clientHeight } = element;
    if (clientWidth === 0 || clientHeight === 0) return;
    this.painter?.resize(clientWidth, clientHeight);
    this.view.resize(clientWidth, clientHeight);
  }

  /** A track that is chosen for the first time is shown from its first notes on, a few bars wide. */
  private fitTrack(): void {
    // A track that becomes a kit gets a kit's rows.
    const id = `${this.scenery.track().id} ${isDrums(this.scenery.track()) ? 'kit' : 'keys'}`;
    if (this.view.width() === 0 || this.fitted === id) return;
    const first = this.fitted === '';
    this.fitted = id;
    untracked(() => {
      this.showing.track(first);
      this.playhead.back();
      this.reaching.cursor.set(null);
    });
  }

  protected wheel(event: WheelEvent): void {
    event.preventDefault();
    const { offsetX } = event;
    if (event.ctrlKey || event.metaKey) this.view.zoom(offsetX, Math.exp(-event.deltaY * 0.002));
    else if (event.shiftKey) this.view.scroll(event.deltaY || event.deltaX, 0);
    else this.view.scroll(event.deltaX, event.deltaY);
    this.pressing.scrolled();
  }

  protected down(event: PointerEvent): void {
    this.pressing.down(event, (pointer) => this.host().nativeElement.setPointerCapture(pointer));
  }

  /** The right button, or the menu key at the note cursor: what can be done there. */
  protected menu(event: MouseEvent): void {
    event.preventDefault();
    // A finger that stays tells by itself.
    if ((event as Partial<PointerEvent>).pointerType === 'touch' || this.pressing.dragging) return;
    const key = event.button !== 2;
    const at = key ? this.cursorPlace() : event;
    this.pressing.hover.set(null);
    if (at) this.verbs().open(at);
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
    const pictures = [...this.scenery.pictures()].sort((a, b) => a.part.start - b.part.start);
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
    if (to !== from) {
      this.reaching.touch(all[to]);
      this.reaching.reach(all[to], more);
    }
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
