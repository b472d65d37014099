import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, inject, signal } from '@angular/core';
import { CLEAR_BITS, type Analysis, type Fit, type MeasuredReading } from '@early-sparrow/core/insight';
import type { Part, Treatment } from '@early-sparrow/core/song';
import { shortMs } from '../../common/format';
import { Analyst } from './analyst';
import { Leans } from './leans';
import { Resting } from '../controls/resting';
import { merge, Treating, type Retreat } from '../hand/treating';

/** What fits: grids ranked, each with how well and why; resting on one shows it, pressing takes it. */
@Component({
  selector: 'es-fits-panel',
  imports: [Resting],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section class="box" aria-label="What fits">
      <h3>
        What fits{{ whom() }}
        @if (analyst.progress() !== null) {
          <span class="soft">analysing … {{ percent() }} %</span>
          <button class="word" (click)="analyst.cancel()">Cancel</button>
        } @else if (!analyst.complete()) {
          <button class="word" (click)="analyst.again()">Analyse</button>
        } @else if (!several()) {
          <span class="soft">typical miss</span>
        }
      </h3>
      @if (analyst.problem(); as text) {
        <p class="soft" role="alert">{{ text }}</p>
      }
      @if (several()) {
        @if (analyst.complete()) {
          <ul>
            @for (own of each(); track own.part.id) {
              <li class="own">
                <span class="who">{{ own.part.name }}</span>
                <span class="number">{{ own.fit }}</span>
                <span class="number miss">{{ own.lag }}</span>
              </li>
            }
          </ul>
          <p class="offer">
            <button class="word act" [esResting]="tryEach" [esRestingEnd]="leave" (click)="takeEach()">
              Apply the best fit to each
            </button>
            @if (anyLag()) {
              <button class="word act" (click)="takeLag()">Remove the lag of each</button>
            }
          </p>
        }
      } @else if (analyst.analysis(); as a) {
        @if (!a.sure) {
          <p class="soft">
            Not sure: {{ a.chords < 16 ? 'there are few notes to go by.' : 'the best two are close.' }}
          </p>
        }
        <ul>
          @for (fit of fits(); track fit.text) {
            <li>
              <button
                [attr.aria-label]="'Apply ' + fit.text + ': ' + fit.reason"
                [title]="fit.reason"
                [esResting]="tryFit(fit)"
                [esRestingEnd]="leave"
                (click)="take(fit)"
              >
                <span class="number name">{{ fit.text }}</span>
                <span class="track"><span class="bar" [style.width.%]="share(fit)"></span></span>
                <span class="number miss">{{ ms(fit.missMs) }} ms</span>
              </button>
            </li>
          }
        </ul>
        <p class="soft why">{{ reason() }}</p>
        @if (lagOffer(); as offer) {
          <p class="offer">
            {{ offer }}
            <button class="word act" (click)="takeLag()">Remove</button>
          </p>
        }
        @for (reading of readings(); track reading.fit.text + reading.lag.ms) {
          <p class="offer">
            Could also be {{ words(reading) }}.
            <button
              class="word act"
              [attr.aria-label]="'Apply: ' + words(reading)"
              [esResting]="tryReading(reading)"
              [esRestingEnd]="leave"
              (click)="takeReading(reading)"
            >
              Apply
            </button>
          </p>
        }
      }
    </section>
  `,
  styles: `
    .box {
      margin: 12px 0 4px;
      padding: 8px 10px;
      border-radius: 8px;
      background: var(--raised);
    }
    h3 {
      display: flex;
      align-items: baseline;
      justify-content: space-between;
      gap: 8px;
      margin: 0;
      font-size: 14px;
    }
    .soft {
      color: var(--soft);
      font-weight: 400;
      font-size: 13px;
      margin: 0;
    }
    ul {
      list-style: none;
      margin: 4px -6px;
      padding: 0;
    }
    li button,
    .own {
      display: grid;
      grid-template-columns: minmax(96px, max-content) minmax(12px, 1fr) 56px;
      align-items: center;
      gap: 8px;
      width: 100%;
      padding: 3px 6px;
      border: 0;
      border-radius: 6px;
      background: none;
      color: inherit;
      font: inherit;
      text-align: left;
    }
    li button {
      cursor: pointer;
    }
    .own {
      grid-template-columns: 1fr auto 92px;
      font-size: 13px;
    }
    .who {
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    li button:hover,
    li button:focus-visible {
      background: var(--paper);
    }
    .name {
      white-space: nowrap;
      font-size: 13px;
    }
    .track {
      height: 5px;
      border-radius: 3px;
      background: var(--line);
      overflow: hidden;
    }
    .bar {
      display: block;
      height: 100%;
      background: var(--on-line);
    }
    .miss {
      text-align: right;
      font-size: 13px;
    }
    .why {
      line-height: 1.3;
      min-height: 2.6em;
    }
    .offer {
      margin: 4px 0 0;
      font-size: 14px;
    }
    .act {
      color: var(--action);
      font-weight: 600;
    }
  `,
})
export class FitsPanel {
  protected readonly analyst = inject(Analyst);
  protected readonly treating = inject(Treating);
  private readonly leans = inject(Leans);
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  protected readonly ms = shortMs;
  private readonly shown = signal<Fit | null>(null);
  protected readonly percent = computed(() => Math.round((this.analyst.progress() ?? 0) * 100));
  protected readonly fits = computed(() => this.analyst.analysis()?.fits.slice(0, 4) ?? []);
  protected readonly several = computed(() => this.treating.parts().length > 1 && !this.treating.set());
  protected readonly reason = computed(
    () => (this.fits().find((f) => f === this.shown()) ?? this.fits()[0])?.reason ?? '',
  );

  /** Whom the suggestion and the lag are for, where that is not the whole part. */
  protected readonly whom = computed(() => {
    if (this.several()) return ` each of ${this.treating.parts().length} parts`;
    const notes = this.treating.set() && this.treating.subjectNotes();
    return notes ? ` these ${notes.length === 1 ? 'one note' : `${notes.length} notes`}` : '';
  });

  /** Each chosen part with what fits it. */
  protected readonly each = computed(() =>
    this.treating.parts().map((part) => {
      const analysis = this.analyst.ofPart(part);
      const lag = lagOf(analysis);
      return {
        part,
        fit: analysis?.fits[0]?.text ?? 'no notes',
        lag: lag === null ? 'no lag' : `${shortMs(lag)} ms ${lag < 0 ? 'early' : 'late'}`,
      };
    }),
  );
  protected readonly anyLag = computed(() =>
    this.treating.parts().some((p) => this.open(p.treatment, this.analyst.ofPart(p)) !== null),
  );

  /** A lag that is worth taking away and is not taken away yet. */
  protected readonly lagOffer = computed(() => {
    const t = this.treating.treatment();
    const lag = t && this.open(t, this.analyst.analysis());
    return lag
      ? `${shortMs(lag)} ms ${lag < 0 ? 'early' : 'late'} throughout${this.whom() && ', of these notes'}.`
      : null;
  });

  /** What the playing could be under another lag, where the lag is not sure. */
  protected readonly readings = computed(() => {
    const analysis = this.analyst.analysis();
    return analysis?.lag && !analysis.lag.sure
      ? analysis.readings.filter((r) => r.behind < CLEAR_BITS).slice(0, 2)
      : [];
  });

  protected words({ fit, lag }: MeasuredReading): string {
    const ms = Math.abs(lag.ms);
    const side = ms < 1 ? 'without a lag' : `${shortMs(ms)}\u00a0ms ${lag.ms < 0 ? 'early' : 'late'}`;
    return `${side}, on ${fit.text}`;
  }

  constructor() {
    // What is shown at rest goes with the list that showed it.
    effect((onCleanup) => {
      this.fits();
      onCleanup(() => this.shown.set(null));
    });
  }

  protected share(fit: Fit): number {
    // A quarter of a bit a chord is a lot: it halves the bar.
    return Math.max(4, 100 * 2 ** (4 * (fit.bits - this.fits()[0].bits)));
  }

  protected readonly tryFit = (fit: Fit) => (): void => {
    this.shown.set(fit);
    this.treating.tryEach(fit.text, withFit(fit), true);
  };

  protected readonly leave = (): void => {
    this.shown.set(null);
    this.treating.endTrying();
  };

  /** What is taken is what was shown: the same change. */
  protected take(fit: Fit): void {
    this.treating.commitEach(`Quantize to ${fit.text}`, withFit(fit));
  }

  protected readonly tryReading = (reading: MeasuredReading) => (): void =>
    this.treating.tryEach(this.words(reading), withReading(reading), true);

  /** Lag and grid together: a grid that was found under one lag is not used under another. */
  protected takeReading(reading: MeasuredReading): void {
    this.treating.commitEach(`Quantize ${this.words(reading)}`, withReading(reading));
  }

  private readonly ownFit: Retreat = (t, part) => {
    const fit = this.analyst.ofPart(part)?.fits[0];
    return fit ? withFit(fit)(t, part) : null;
  };

  protected readonly tryEach = (): void => this.treating.tryEach('the best fit for each', this.ownFit, true);

  protected takeEach(): void {
    this.treating.commitEach('Quantize each to its best fit', this.ownFit);
  }

  /** Takes away the lag of each part, as it was found for that part. */
  protected takeLag(): void {
    this.treating.commitEach('Lag', (t, part) => {
      const value = this.open(t, this.analyst.ofPart(part));
      return value === null ? null : merge(t, { lag: { on: true, amount: { value, unit: 'ms' } } });
    });
    // The offer goes with what it offered.
    this.element.querySelector<HTMLElement>('li button, .offer button')?.focus();
  }

  /** The lag that a treatment leaves to be removed; null for none, and where nothing leans any more. */
  private open(t: Treatment, analysis: Analysis | null): number | null {
    const value = lagOf(analysis);
    if (value === null || this.leans.isDealtWith()) return null;
    const done = t.lag.on ? this.treating.inMs(t.lag.amount) : 0;
    return t.lag.on && Math.abs(done - value) < 1 ? null : value;
  }
}

/** The treatment by a reading: its lag is removed, and its lines are used. */
function withReading({ fit, lag }: MeasuredReading): (t: Treatment, part: Part) => Treatment {
  const value = Math.round(lag.ms * 10) / 10;
  return (t, part) => merge(withFit(fit)(t, part), { lag: { on: value !== 0, amount: { value, unit: 'ms' } } });
}

/** A steady lag that is worth taking away, in ms; null for none. */
function lagOf(analysis: Analysis | null): number | null {
  const lag = analysis?.lag;
  return !lag || lag.drifting || Math.abs(lag.ms) < 4 ? null : Math.round(lag.ms * 10) / 10;
}

/** The treatment with a suggested grid; a groove, which has lines of its own, goes. */
function withFit(fit: Fit): (t: Treatment, part: Part) => Treatment {
  const { restart: _restart, shift: _shift, ...grid } = fit.grid;
  return (t) => merge(t, { quantize: { on: true, groove: null, grid } });
}
