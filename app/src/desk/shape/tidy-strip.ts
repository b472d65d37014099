import { ChangeDetectionStrategy, Component, computed, DestroyRef, effect, inject, signal } from '@angular/core';
import { findUntidy, tidy, type Found, type Tidying } from '@early-sparrow/core/shape';
import { tempoOf } from '@early-sparrow/core/song';
import { counted } from '../../common/format';
import { LiveNumber } from '../../common/live-number';
import { Said } from '../../common/said';
import { Scenery } from '../hand/scenery';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Feedback } from '../kit/feedback';
import { Panels } from '../kit/panels';
import { TIDY } from '../kit/foot-strips';

type Reason = keyof Found;

/** One thing that is looked for. */
interface Row {
  readonly id: Reason;
  readonly before: string;
  readonly behind: string;
  readonly least: number;
  readonly most: number;
}

const ROWS: readonly Row[] = [
  { id: 'doubles', before: 'Doubles of one key within', behind: 'ms: the softer goes', least: 0, most: 200 },
  { id: 'short', before: 'Notes shorter than', behind: 'ms', least: 0, most: 1000 },
  { id: 'soft', before: 'Notes softer than velocity', behind: '', least: 1, most: 127 },
  { id: 'strays', before: 'Strays more than', behind: 'semitones from all others around', least: 1, most: 60 },
  { id: 'overlaps', before: 'Overlaps of one key', behind: 'the earlier one ends there', least: 0, most: 0 },
];

/** Tidying: what would go is counted and marked in the picture before it goes. */
@Component({
  selector: 'es-tidy-strip',
  imports: [LiveNumber],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Tidy">
      <p class="what">{{ of() }} What would go is crossed out in the roll.</p>
      @for (row of rows; track row.id) {
        <div class="row">
          <input
            type="checkbox"
            [attr.aria-label]="row.before"
            [checked]="on()[row.id]"
            (change)="switch(row.id, !on()[row.id])"
          />
          <span>{{ row.before }}</span>
          <span class="pair">
            @if (row.most > 0) {
              <input
                class="number"
                [least]="row.least"
                [most]="row.most"
                [esLiveNumber]="limits()[row.id]"
                [attr.aria-label]="row.before + ', limit'"
                (typed)="setLimit(row.id, $event)"
              />
            }
            {{ row.behind }}
          </span>
          <span class="count" [class.soft]="!on()[row.id]">{{ on()[row.id] ? told(row.id) : '' }}</span>
        </div>
      }
      <div class="group">
        <button class="word" [disabled]="count() === 0" (click)="apply()">
          {{ count() === 0 ? 'Nothing to tidy' : 'Tidy ' + notes(count()) }}
        </button>
      </div>
      <button class="word close" (click)="panels.close(name)">Close</button>
    </section>
  `,
  styleUrl: './strips.scss',
})
export class TidyStrip {
  protected readonly panels = inject(Panels);
  private readonly shaping = inject(Shaping);
  private readonly selecting = inject(Selecting);
  private readonly scenery = inject(Scenery);
  private readonly treating = inject(Treating);
  private readonly feedback = inject(Feedback);
  private readonly said = inject(Said);
  protected readonly name = TIDY;
  protected readonly rows = ROWS;
  protected readonly notes = (n: number): string => counted(n, 'note');
  protected readonly on = signal<Readonly<Record<Reason, boolean>>>({
    doubles: true,
    short: true,
    soft: false,
    strays: false,
    overlaps: false,
  });
  protected readonly limits = signal<Readonly<Record<Reason, number>>>({
    doubles: 15,
    short: 20,
    soft: 10,
    strays: 24,
    overlaps: 0,
  });
  private readonly hand = computed(() => {
    // What the hand takes up depends on the picture: it is read, so that an edit or an undo counts anew.
    void [this.treating.song(), this.scenery.corrected()];
    const ids = this.selecting.count() > 0 ? this.selecting.ids() : this.scenery.part().notes.map((n) => n.id);
    return this.shaping.hand(ids);
  });
  protected readonly of = computed(() =>
    this.selecting.count() > 0
      ? `Among ${counted(this.selecting.count(), 'selected note')}.`
      : 'Among all of the part.',
  );
  private readonly found = computed((): Found | null => {
    const hand = this.hand();
    if (!hand) return null;
    const [on, limits] = [this.on(), this.limits()];
    const limit = (id: Reason) => (on[id] ? limits[id] : null);
    const wish: Tidying = {
      doubles: limit('doubles'),
      short: limit('short'),
      soft: limit('soft'),
      strays: limit('strays'),
      overlaps: on.overlaps,
    };
    return findUntidy(hand.taken, wish, tempoOf(hand.song));
  });
  protected readonly count = computed(() => {
    const found = this.found();
    return found ? ROWS.reduce((sum, { id }) => sum + found[id].length, 0) : 0;
  });

  constructor() {
    effect(() => {
      const found = this.found();
      const ids = found
        ? [...found.doubles, ...found.short, ...found.soft, ...found.strays, ...found.overlaps.map((o) => o.taken)]
        : [];
      this.feedback.marked.set(new Set(ids.map((t) => t.note.id)));
    });
    inject(DestroyRef).onDestroy(() => this.feedback.marked.set(new Set()));
  }

  protected told(id: Reason): string {
    const n = this.found()?.[id].length ?? 0;
    return n === 0 ? 'none' : counted(n, 'note');
  }

  protected switch(id: Reason, on: boolean): void {
    this.on.update((all) => ({ ...all, [id]: on }));
  }

  protected setLimit(id: Reason, value: number): void {
    this.limits.update((all) => ({ ...all, [id]: value }));
  }

  protected apply(): void {
    const [hand, found] = [this.hand(), this.found()];
    if (!hand || !found) return;
    const count = this.count();
    if (this.shaping.make(tidy(hand.track, found), 'tidy')) this.said.say(`Tidied ${counted(count, 'note')}.`);
  }
}
