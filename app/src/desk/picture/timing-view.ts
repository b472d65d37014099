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
  untracked,
  viewChild,
} from '@angular/core';
import { isDrums } from '@early-sparrow/core/sound';
import { meterOf, type Part, type Song, type Track } from '@early-sparrow/core/song';
import { countedFirst, earlyOrLate } from '../../common/format';
import { Theme } from '../../common/theme';
import { ListeningSettings } from '../../sound/listening-settings';
import { Hits } from '../listening/hits';
import { Recorder } from '../recording/recorder';
import { Player } from '../../sound/player';
import { Gestures, type Gesture } from '../selection/gestures';
import { Leans } from '../fits/leans';
import { noteWords, type NoteWords } from './note-words';
import { pictureOf, type Picture } from './picture';
import { Selecting } from '../selection/selecting';
import { TimingPainter } from './timing-painter';
import { ALL_PITCHES, KEYS_WIDTH, LANE_HEAD, RULER_HEIGHT, Viewport } from './viewport';

/** The pointer must go this far before pressing becomes dragging, in px. */
const DRAG_PX = 4;
/** A hit is under the pointer if it is this close. */
const HIT_PX = 6;

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
      [style.cursor]="cursor()"
      (wheel)="wheel($event)"
      (pointerdown)="down($event)"
      (pointermove)="move($event)"
      (pointerup)="up($event)"
      (dblclick)="addHit($event)"
      (pointercancel)="cancel()"
      (lostpointercapture)="cancel()"
      (pointerleave)="hover.set(null)"
      (contextmenu)="$event.preventDefault()"
      (keydown)="key($event)"
    ></div>
    <!-- Its own element: moving it does not paint a canvas sixty times a second. -->
    <div class="playhead" [hidden]="playheadX() < 0" [style.transform]="'translateX(' + playheadX() + 'px)'"></div>
    <div class="lane-head" [style.top.px]="laneTop()" [style.height.px]="laneHead">
      <span>Offset from the lines, in ms</span>
      @if (lean(); as l) {
        <button class="lean" [class]="l.side" (click)="takeAway()">
          <span aria-hidden="true">{{ l.side === 'early' ? '◂' : '▸' }}</span> {{ l.text }} <b>Take it away</b>
        </button>
      }
    </div>
    @if (tip(); as t) {
      <div class="tip" [style.left.px]="t.x" [style.top.px]="t.y">
        <b>{{ t.words.name }}</b>
        @for (line of t.words.lines; track $index) {
          <span [class]="$first ? t.words.lean : ''">{{ line }}</span>
        }
      </div>
    }
    <p class="unseen" aria-live="polite">{{ spoken() }}</p>
  `,
  styleUrl: './timing-view.scss',
})
export class TimingView {
  readonly song = input.required<Song>();
  readonly track = input.required<Track>();
  /** The part at hand: its notes are shown. */
  readonly part = input.required<Part>();
  readonly corrected = input.required<boolean>();

  protected readonly view = inject(Viewport);
  private readonly theme = inject(Theme);
  private readonly player = inject(Player);
  private readonly hits = inject(Hits);
  private readonly listening = inject(ListeningSettings);
  private readonly recorder = inject(Recorder);
  private readonly selecting = inject(Selecting);
  private readonly leans = inject(Leans);
  private readonly gestures = inject(Gestures);
  private readonly host = viewChild.required<ElementRef<HTMLDivElement>>('host');
  protected readonly laneHead = LANE_HEAD;
  protected readonly laneTop = computed(() => this.view.laneTop());
  protected readonly cursor = signal('default');
  protected readonly hover = signal<{ x: number; y: number; note: number } | null>(null);
  protected readonly spoken = signal('');
  /** The note that the keyboard is at, by id: places change with every edit. */
  private readonly at = signal<number | null>(null);

  private readonly picture = computed((): Picture => pictureOf(this.part(), this.song()));
  private readonly cursorIndex = computed(() => {
    const id = this.at();
    return id === null ? -1 : this.picture().part.notes.findIndex((n) => n.id === id);
  });
  protected readonly label = computed(
    () =>
      `Notes of ${this.track().name}. Left and right arrows go from note to note, with Shift they select more; ` +
      `with Alt they move the selected notes. Plus and minus zoom.`,
  );

  /** A steady lean of the part, with the way out on it. */
  protected readonly lean = computed(() => {
    const ms = this.leans.part();
    return ms === null ? null : { side: ms < 0 ? 'early' : 'late', text: `${earlyOrLate(ms)} throughout.` };
  });

  protected takeAway(): void {
    this.host().nativeElement.focus();
    this.leans.takeFromPart();
  }

  /** Where the playhead is, in px; −1 where it is out of sight. */
  protected readonly playheadX = computed(() => {
    const x = this.view.x(this.player.position());
    return x < KEYS_WIDTH || x > this.view.width() ? -1 : x;
  });

  /** What a note under the pointer is, or what a drag does so far. */
  protected readonly tip = computed((): { x: number; y: number; words: NoteWords } | null => {
    const h = this.hover();
    if (!h) return null;
    const hint = this.gestures.hint() ?? this.hitHint(h.x, h.y);
    const words = hint
      ? ({ name: hint, lines: [], lean: 'on-line' } as const)
      : h.note < 0 || h.note >= this.picture().count
        ? null
        : noteWords(h.note, this.picture(), this.corrected(), this.song(), this.track());
    if (!words) return null;
    return { x: Math.min(h.x + 14, this.view.width() - 250), y: Math.min(h.y + 14, this.view.height() - 96), words };
  });

  /** What a press on a sound file does. */
  private hitHint(x: number, y: number): string | null {
    if (this.drag || x < KEYS_WIDTH || !this.view.inWave(y)) return null;
    const hit = this.hits.under(this.view.tick(x), HIT_PX / this.view.scale());
    return hit ? 'press: select this hit; Delete takes it away' : 'double press: a hit where the sound rises';
  }

  private painter: TimingPainter | null = null;
  private drag: { gesture: Gesture; x: number; y: number; pointer: number; moved: boolean } | null = null;
  private fitted = '';

  constructor() {
    this.gestures.attach({ song: this.song, picture: this.picture, corrected: this.corrected });
    const destroy = inject(DestroyRef);
    afterNextRender(() => {
      const element = this.host().nativeElement;
      this.painter = new TimingPainter(element, this.view, {
        song: this.song,
        track: this.track,
        picture: this.picture,
        corrected: this.corrected,
        loop: this.player.loop,
        loopOn: this.player.loopOn,
        selected: this.selecting.ids,
        cursor: this.cursorIndex,
        live: this.recorder.live,
        playhead: this.player.position,
        box: this.gestures.box,
        waves: this.hits.waves,
      });
      const observer = new ResizeObserver(() => this.resize(element));
      observer.observe(element);
      this.resize(element);
      // Canvas text does not wait for fonts by itself.
      void document.fonts.ready.then(() => this.painter?.redraw());
      const escape = (event: KeyboardEvent) => {
        if (event.key !== 'Escape' || !this.drag) return;
        event.stopImmediatePropagation();
        this.cancel();
      };
      const lost = () => this.cancel();
      window.addEventListener('keydown', escape, true);
      window.addEventListener('blur', lost);
      destroy.onDestroy(() => {
        window.removeEventListener('keydown', escape, true);
        window.removeEventListener('blur', lost);
        this.cancel();
        observer.disconnect();
        this.painter?.destroy();
      });
    });
    effect(() => {
      void [this.picture(), this.corrected(), this.theme.name(), this.hits.waves()];
      this.readView();
      this.painter?.redraw();
    });
    effect(() => {
      void [this.player.loop(), this.player.loopOn(), this.theme.name(), this.cursorIndex()];
      void [this.selecting.ids(), this.gestures.box(), this.picture(), this.corrected()];
      // What is held grows with the playhead.
      if (this.recorder.recording()) void [this.recorder.live(), this.player.position()];
      this.readView();
      this.painter?.redrawOverlay();
    });
    effect(() => {
      const shown = this.hits.waves().length > 0;
      this.view.waveHeight.set(shown ? Math.round(Math.max(36, Math.min(72, this.view.height() * 0.14))) : 0);
    });
    effect(() => this.fitTrack());
    effect(() => this.keepPlayheadInView());
  }

  private readView(): void {
    const v = this.view;
    void [
      v.width(),
      v.height(),
      v.left(),
      v.scale(),
      v.topRow(),
      v.pitches(),
      v.rowHeight(),
      v.laneHeight(),
      v.waveHeight(),
    ];
  }

  private resize(element: HTMLElement): void {
    const { clientWidth, clientHeight } = element;
    if (clientWidth === 0 || clientHeight === 0) return;
    this.painter?.resize(clientWidth, clientHeight);
    this.view.width.set(clientWidth);
    this.view.height.set(clientHeight);
    this.view.laneHeight.set(Math.round(Math.max(110, Math.min(220, clientHeight * 0.36))));
  }

  /** A track that is chosen for the first time is shown from its first notes on, a few bars wide. */
  private fitTrack(): void {
    const { id } = this.part();
    if (this.view.width() === 0 || this.fitted === id) return;
    const first = this.fitted === '';
    this.fitted = id;
    const picture = untracked(this.picture);
    const meter = meterOf(this.song());
    const used = [...new Set(picture.pitch)].sort((a, b) => a - b);
    const drums = isDrums(this.track());
    untracked(() => {
      this.view.fitPitches(drums ? used : ALL_PITCHES, picture.lowest, picture.highest, drums ? 32 : 20);
      const begin = meter.barStartAt(Math.max(picture.own[0], this.part().start));
      const left = this.view.left();
      const right = this.view.right();
      const bars = this.view.notesWidth() < 500 ? 1 : 2.5;
      if (first) this.view.fitTime(begin, begin + meter.pieceAt(begin).barTicks * bars);
      else if (!picture.own.some((t) => t >= left && t < right)) this.view.scrollTo(begin - 12 / this.view.scale());
      this.at.set(null);
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
    this.drag = { gesture: this.gestures.begin(event), x, y, pointer, moved: false };
    this.host().nativeElement.setPointerCapture(pointer);
  }

  protected move(event: PointerEvent): void {
    const { drag } = this;
    const { offsetX: x, offsetY: y } = event;
    if (!drag) {
      this.hover.set({ x, y, note: this.gestures.noteUnder(x, y) });
      this.cursor.set(this.gestures.cursor(x, y));
      return;
    }
    if (!drag.moved && Math.hypot(x - drag.x, y - drag.y) < DRAG_PX) return;
    drag.moved = true;
    drag.gesture.move(event);
    this.hover.set({ x, y, note: -1 });
  }

  protected up(event: PointerEvent): void {
    const { drag } = this;
    if (drag?.pointer !== event.pointerId) return;
    this.drag = null;
    if (drag.moved) drag.gesture.drop(event);
    else this.click(event, drag.gesture.kind);
  }

  /** Takes back a drag on its way: by Escape, or when the pointer is lost. */
  protected cancel(): void {
    const { drag } = this;
    this.drag = null;
    if (drag?.moved) drag.gesture.cancel();
  }

  private click(event: PointerEvent, kind: Gesture['kind']): void {
    const { offsetX: x, offsetY: y } = event;
    if (event.button !== 0) return;
    if (kind === 'seek') this.player.seek(Math.max(0, this.view.tick(x)));
    else if (kind === 'loop') this.clickLoop(this.gestures.onLoop(x, y));
    if (y < RULER_HEIGHT) return;
    if (this.view.inWave(y)) {
      this.hits.select(this.view.tick(x), HIT_PX / this.view.scale());
      return;
    }
    if (x < KEYS_WIDTH) {
      this.gestures.selectKey(y);
      return;
    }
    this.reach(this.gestures.noteUnder(x, y), event.shiftKey || event.ctrlKey || event.metaKey);
  }

  /** A double press on a sound adds a hit there. */
  protected addHit({ offsetX: x, offsetY: y }: MouseEvent): void {
    if (x >= KEYS_WIDTH && this.view.inWave(y)) this.hits.add(this.view.tick(x));
  }

  /** A press on the loop switches it; beside it, in its strip, it takes its range away. */
  private clickLoop(on: boolean): void {
    if (on) {
      this.player.loopOn.update((was) => !was);
      return;
    }
    this.player.loopOn.set(false);
    this.player.loop.set({ from: 0, to: 0 });
  }

  protected key(event: KeyboardEvent): void {
    if (event.ctrlKey || event.metaKey || event.altKey) return;
    const step = { ArrowRight: 1, ArrowLeft: -1 }[event.key];
    if (step !== undefined) {
      event.preventDefault();
      const from = this.cursorIndex();
      const to = from < 0 ? this.firstInView() : Math.max(0, Math.min(this.picture().count - 1, from + step));
      this.reach(to, event.shiftKey);
      this.reveal(to);
    } else if (event.key === '+' || event.key === '=') this.view.zoom(this.view.width() / 2, 1.25);
    else if (event.key === '-') this.view.zoom(this.view.width() / 2, 0.8);
  }

  private firstInView(): number {
    const left = Math.max(this.view.left(), 0);
    const found = this.picture().own.findIndex((t) => t >= left);
    return Math.max(0, found);
  }

  /** Goes to a note: selects it, or with `more` adds it to the selection, and says what it is. */
  private reach(note: number, more: boolean): void {
    const id = this.picture().part.notes[note]?.id ?? null;
    this.at.set(id);
    if (id === null) {
      if (!more) this.selecting.select([]);
      return;
    }
    const before = more ? this.selecting.ids() : [];
    this.selecting.select([...new Set([...before, id])]);
    const { name, lines } = noteWords(note, this.picture(), this.corrected(), this.song(), this.track());
    const chosen = this.selecting.count() > 1 ? `. ${countedFirst(this.selecting.count(), 'note')} selected` : '';
    this.spoken.set(`${name}, ${lines[0]}${chosen}`);
  }

  private reveal(note: number): void {
    const start = this.picture().now[note];
    const x = this.view.x(start);
    if (x < KEYS_WIDTH + 20 || x > this.view.width() - 60) {
      this.view.scrollTo(start - this.view.notesWidth() / this.view.scale() / 3);
    }
  }
}
