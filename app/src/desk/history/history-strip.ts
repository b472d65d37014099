import {
  afterNextRender,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  ElementRef,
  inject,
  Injector,
  signal,
} from '@angular/core';
import { format, isToday } from 'date-fns';
import { Said } from '../../common/said';
import { Holding } from '../controls/holding';
import { HISTORY } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Travelling, type Stop } from './travelling';

/** So many steps are listed on either side of the song as it is, with marks and the beginning; the search finds the others. */
const LISTED = 200;

/** Every step in words and with its time: a press goes there, a press that is held shows and sounds the song as it was. */
@Component({
  selector: 'es-history-strip',
  imports: [Holding],
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
              [esHolding]="look(stop)"
              [esHoldingEnd]="endLooking"
              (pressed)="travelling.go(stop.by)"
              (keydown)="arrow($event)"
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
  protected readonly travelling = inject(Travelling);
  private readonly said = inject(Said);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly own = HISTORY;
  protected readonly sought = signal('');
  protected readonly looking = signal<Stop | null>(null);

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

  protected readonly look = (stop: Stop) => (): void => {
    this.looking.set(stop);
    this.travelling.look(stop.by);
  };

  protected readonly endLooking = (): void => {
    this.looking.set(null);
    this.travelling.endLooking();
  };

  /** Arrow keys go from step to step. */
  protected arrow(event: KeyboardEvent): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    const all = this.buttons();
    const at = all.indexOf(document.activeElement as HTMLButtonElement);
    all.at(Math.max(0, Math.min(all.length - 1, at + by)))?.focus();
  }

  private buttons(): HTMLButtonElement[] {
    return [...this.host.nativeElement.querySelectorAll<HTMLButtonElement>('ol button')];
  }
}
