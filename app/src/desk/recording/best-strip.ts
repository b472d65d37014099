import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, signal } from '@angular/core';
import { Holding } from '../controls/holding';
import { PickOne } from '../../common/pick-one';
import { BEST_TAKES } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { BestTakes } from './best-takes';
import { cellShort, isWorse, nothingToCompare, proposalWords, sectionName, takeShort, whyTake } from './take-words';

/** A cell of the table: a take in a section. */
interface Place {
  readonly section: number;
  readonly take: number;
}

/** The takes of a part, bar by bar, with the reasons: the best are proposed, heard in place, and swapped by hand. */
@Component({
  selector: 'es-best-strip',
  imports: [Holding, PickOne],
  providers: [BestTakes],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Best of the takes">
      <div class="group">
        <b>Best of the takes</b>
        @if (best.table()) {
          <span class="soft grow"
            >Press a take to use it in that bar, hold it to hear it there. ● best, ○ as good.</span
          >
          <es-pick-one
            label="Compare"
            [value]="'' + best.bars()"
            [options]="lengths"
            (picked)="best.bars.set(+$event)"
          />
          <button class="word act" [disabled]="best.done()" (click)="best.propose()">
            {{ best.done() ? 'The best are put together' : 'Put the best together' }}
          </button>
        }
      </div>
      @if (best.table(); as table) {
        <p class="soft why" role="status">{{ said() }}</p>
        <div class="scroll">
          <table>
            <thead>
              <tr>
                <td></td>
                @for (s of table.sections; track s.from) {
                  <th scope="col">{{ name(s) }}</th>
                }
              </tr>
            </thead>
            <tbody>
              @for (take of table.takes; track take.id; let k = $index) {
                <tr>
                  <th scope="row">
                    {{ take.name }} <span class="soft number">{{ whole(k) }}</span>
                  </th>
                  @for (cell of table.cells[k]; track $index; let s = $index) {
                    <td [class.used]="best.used()[s] === k">
                      @if (cell) {
                        <button
                          class="number"
                          [class.worse]="worse(s, k)"
                          [attr.aria-pressed]="best.used()[s] === k"
                          [attr.aria-label]="why({ section: s, take: k })"
                          [attr.data-cell]="s + '.' + k"
                          [tabindex]="s === at().section && k === at().take ? 0 : -1"
                          [esHolding]="hear({ section: s, take: k })"
                          [esHoldingEnd]="endHearing"
                          (pressed)="use({ section: s, take: k })"
                          (pointerenter)="over.set({ section: s, take: k })"
                          (pointerleave)="over.set(null)"
                          (focus)="at.set({ section: s, take: k })"
                          (keydown)="arrow($event)"
                        >
                          <span aria-hidden="true">{{ mark(s, k) }}</span> {{ short(cell) }}
                        </button>
                      } @else {
                        <span class="soft" [attr.aria-label]="why({ section: s, take: k })">–</span>
                      }
                    </td>
                  }
                </tr>
              }
            </tbody>
          </table>
        </div>
      } @else {
        <p class="soft">{{ nothing() }}</p>
      }
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrls: ['../kit/table-strip.scss', './best-strip.scss'],
})
export class BestStrip {
  protected readonly panels = inject(Panels);
  protected readonly best = inject(BestTakes);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  protected readonly own = BEST_TAKES;
  protected readonly name = sectionName;
  protected readonly short = cellShort;
  protected readonly lengths = [1, 2, 4].map((n) => ({
    value: `${n}`,
    text: n === 1 ? 'Bar by bar' : `${n} bars at a time`,
  }));
  /** The cell that the keys are at, and the one under the pointer. */
  protected readonly at = signal<Place>({ section: 0, take: 0 });
  protected readonly over = signal<Place | null>(null);
  private readonly hearing = signal<Place | null>(null);
  protected readonly nothing = computed(() => {
    const { takes, played } = this.best.counts();
    return nothingToCompare(takes, played) || 'Comparing the takes …';
  });
  /** Of the cell that is heard, pointed at or reached by keys; else of the whole proposal. */
  protected readonly said = computed(() => {
    const table = this.best.table();
    const place = this.hearing() ?? this.over();
    if (!table) return '';
    if (place) return `${this.hearing() ? 'You hear: ' : ''}${this.why(place)}`;
    const words = proposalWords(table, this.best.choices());
    return this.best.otherPlays()
      ? `${words} Another take plays now; a press here goes back to the best of the takes.`
      : words;
  });

  protected whole(k: number): string {
    const table = this.best.table();
    return table ? takeShort(table, k) : '';
  }

  protected worse(s: number, k: number): boolean {
    const table = this.best.table();
    return table !== null && isWorse(table, s, k);
  }

  /** ● what is proposed, ○ what is as good, by what is known. */
  protected mark(s: number, k: number): string {
    const choice = this.best.choices().at(s);
    if (choice?.take === k) return '●';
    return choice?.equal.includes(k) ? '○' : '';
  }

  protected why({ section, take }: Place): string {
    const [table, choice] = [this.best.table(), this.best.choices().at(section)];
    return table && choice ? whyTake(table, section, take, choice) : '';
  }

  protected use({ section, take }: Place): void {
    this.best.use(section, take);
  }

  protected readonly hear = (place: Place) => (): void => {
    this.hearing.set(place);
    this.best.hear(place.section, place.take);
  };

  protected readonly endHearing = (): void => {
    this.hearing.set(null);
    this.best.endHearing();
  };

  /** Arrow keys go from cell to cell, over those in which nothing was played. */
  protected arrow(event: KeyboardEvent): void {
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
    if (!by) return;
    event.preventDefault();
    event.stopPropagation();
    const table = this.best.table();
    let { section, take } = this.at();
    while (table) {
      section += by[0];
      take += by[1];
      const row = table.cells.at(take);
      if (take < 0 || section < 0 || !row || section >= row.length) return;
      if (row[section]) break;
    }
    this.host.nativeElement.querySelector<HTMLElement>(`[data-cell="${section}.${take}"]`)?.focus();
    this.over.set({ section, take });
  }
}
