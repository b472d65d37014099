import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  DestroyRef,
  effect,
  ElementRef,
  inject,
  Injector,
  signal,
} from '@angular/core';
import { format, isToday } from 'date-fns';
import { Said } from '../../common/said';
import { HISTORY } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Travelling, type Stop } from './travelling';

/** A press that lasts so long looks at the song as it was; a shorter one goes there. In ms. */
const HOLD = 350;
/** So many steps are listed on either side of the song as it is, with marks and the beginning; the search finds the others. */
const LISTED = 200;

/** Every step in words and with its time: a press goes there, a press that is held shows and sounds the song as it was. */
@Component({
  selector: 'es-history-strip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="History">
      <div class="group">
        <b>History</b>
        <span class="soft grow" role="status">
          @if (looking(); as stop) {
            As it was: {{ stop.name }}. Let go to come back.
          } @else {
            Press a step to go there. Hold it to see and hear the song as it was.
          }
        </span>
        <form (submit)="mark($event, name)">
          <input #name class="entry" aria-label="Name of the mark" placeholder="Mark this place as …" maxlength="80" />
          <button class="word" type="submit">Mark</button>
        </form>
        <input
          #search
          class="entry search"
          type="search"
          aria-label="Search the history"
          placeholder="Search"
          [value]="sought()"
          (input)="sought.set(search.value)"
        />
      </div>
      <ol>
        @for (stop of listed(); track stop.index) {
          <li>
            <button
              [class.now]="stop.by === 0"
              [class.ahead]="stop.by > 0"
              [attr.aria-current]="stop.by === 0 ? 'step' : null"
              [title]="stop.name"
              (pointerdown)="press(stop, $event)"
              (pointerup)="release(stop)"
              (pointercancel)="cancel()"
              (lostpointercapture)="cancel()"
              (keydown)="key(stop, $event)"
              (keyup)="keyUp(stop, $event)"
              (contextmenu)="$event.preventDefault()"
            >
              <span class="what">{{ stop.mark ? '★ ' : '' }}{{ stop.name }}</span>
              <span class="when">{{ when(stop) }}</span>
            </button>
          </li>
        } @empty {
          <li class="soft none">No step has these words.</li>
        }
      </ol>
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrl: './history-strip.scss',
})
export class HistoryStrip {
  protected readonly panels = inject(Panels);
  private readonly travelling = inject(Travelling);
  private readonly said = inject(Said);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly own = HISTORY;
  protected readonly sought = signal('');
  protected readonly looking = signal<Stop | null>(null);
  private pressed: { readonly stop: Stop; readonly timer: ReturnType<typeof setTimeout> } | null = null;

  protected readonly listed = computed((): readonly Stop[] => {
    const stops = this.travelling.stops();
    const words = this.sought().trim().toLowerCase();
    if (words) return stops.filter((s) => s.name.toLowerCase().includes(words)).slice(-2 * LISTED);
    return stops.filter((s) => s.index === 0 || s.mark || Math.abs(s.by) <= LISTED);
  });

  constructor() {
    const injector = inject(Injector);
    // The song as it is stays in sight, whatever was done.
    effect(() => {
      void this.listed();
      afterNextRender(
        () =>
          this.buttons()
            .find((b) => b.matches('.now'))
            ?.scrollIntoView({ inline: 'center', block: 'nearest' }),
        {
          injector,
        },
      );
    });
    const lost = () => this.cancel();
    window.addEventListener('blur', lost);
    inject(DestroyRef).onDestroy(() => {
      window.removeEventListener('blur', lost);
      this.cancel();
    });
  }

  protected when({ at, by }: Stop): string {
    if (at === null) return by === 0 ? 'now' : '';
    return format(at, isToday(at) ? 'HH:mm' : 'd MMM, HH:mm');
  }

  protected mark(event: Event, field: HTMLInputElement): void {
    event.preventDefault();
    const name = field.value.trim();
    if (!name) this.said.say('Type a name for the mark first.');
    else if (this.travelling.mark(name)) field.value = '';
  }

  protected press(stop: Stop, event: PointerEvent): void {
    if (event.button !== 0 || !event.isPrimary) return;
    (event.target as HTMLElement).setPointerCapture(event.pointerId);
    this.begin(stop);
  }

  protected release(stop: Stop): void {
    if (this.pressed?.stop.index !== stop.index) return;
    const looked = this.looking() !== null;
    this.cancel();
    if (!looked) this.travelling.go(stop.by);
  }

  protected key(stop: Stop, event: KeyboardEvent): void {
    this.arrow(event);
    if (event.key === 'Escape' && this.pressed) {
      event.stopPropagation();
      this.cancel();
    }
    if (event.key !== 'Enter' && event.key !== ' ') return;
    event.preventDefault();
    event.stopPropagation();
    if (!event.repeat) this.begin(stop);
  }

  protected keyUp(stop: Stop, event: KeyboardEvent): void {
    if (event.key === 'Enter' || event.key === ' ') this.release(stop);
  }

  /** Arrow keys go from step to step. */
  private arrow(event: KeyboardEvent): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const all = this.buttons();
    const at = all.indexOf(document.activeElement as HTMLButtonElement);
    all.at(Math.max(0, Math.min(all.length - 1, at + by)))?.focus();
  }

  /** The song is as it is again, and nothing is gone to. */
  protected cancel(): void {
    if (!this.pressed) return;
    clearTimeout(this.pressed.timer);
    this.pressed = null;
    if (!this.looking()) return;
    this.looking.set(null);
    this.travelling.endLooking();
  }

  private begin(stop: Stop): void {
    this.cancel();
    const timer = setTimeout(() => {
      this.looking.set(stop);
      this.travelling.look(stop.by);
    }, HOLD);
    this.pressed = { stop, timer };
  }

  private buttons(): HTMLButtonElement[] {
    return [...this.host.nativeElement.querySelectorAll<HTMLButtonElement>('ol button')];
  }
}
