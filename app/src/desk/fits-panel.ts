import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import type { Fit } from '@early-sparrow/core/insight';
import type { Treatment } from '@early-sparrow/core/song';
import { shortMs } from '../common/format';
import { Analyst } from './analyst';
import { Treating } from './treating';

/** What fits: grids ranked, each with how well and why; pointing at one shows it, pressing takes it. */
@Component({
  selector: 'es-fits-panel',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <div class="box">
      <h3>
        What fits
        @if (analyst.progress() !== null) {
          <span class="soft">listening … {{ percent() }} %</span>
          <button class="word" (click)="analyst.cancel()">Cancel</button>
        } @else if (!analyst.analysis()) {
          <button class="word" (click)="analyst.again()">Find out</button>
        } @else {
          <span class="soft">typical miss</span>
        }
      </h3>
      @if (analyst.analysis(); as a) {
        @if (!a.sure) {
          <p class="soft">
            Not sure: {{ a.chords < 16 ? 'there are few notes to go by.' : 'the best two are close.' }}
          </p>
        }
        <ul>
          @for (fit of fits(); track fit.text; let first = $first) {
            <li>
              <button
                [attr.aria-label]="'Take ' + fit.text + ': ' + fit.reason"
                [title]="fit.reason"
                (mouseenter)="show(fit)"
                (focus)="show(fit)"
                (mouseleave)="treating.preview(null)"
                (blur)="treating.preview(null)"
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
            {{ offer.text }}
            <button class="word act" (click)="takeLag(offer.ms)">Take it away</button>
          </p>
        }
      }
    </div>
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
    li button {
      display: grid;
      grid-template-columns: 84px 1fr 56px;
      align-items: center;
      gap: 8px;
      width: 100%;
      padding: 3px 6px;
      border: 0;
      border-radius: 6px;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
      text-align: left;
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
  protected readonly ms = shortMs;
  private readonly shown = signal<Fit | null>(null);
  protected readonly percent = computed(() => Math.round((this.analyst.progress() ?? 0) * 100));
  protected readonly fits = computed(() => this.analyst.analysis()?.fits.slice(0, 4) ?? []);
  protected readonly reason = computed(
    () => (this.fits().find((f) => f === this.shown()) ?? this.fits()[0])?.reason ?? '',
  );

  /** A lag that is worth taking away and is not taken away yet. */
  protected readonly lagOffer = computed(() => {
    const lag = this.analyst.analysis()?.lag;
    const t = this.treating.treatment();
    if (!lag || !t || lag.drifting || Math.abs(lag.ms) < 4) return null;
    if (t.lag.on && Math.abs(t.lag.amount.value - lag.ms) < 1) return null;
    const value = Math.round(lag.ms * 10) / 10;
    return { ms: value, text: `${shortMs(lag.ms)} ms ${lag.ms < 0 ? 'early' : 'late'} throughout.` };
  });

  protected share(fit: Fit): number {
    // A quarter of a bit a chord is a lot: it halves the bar.
    return Math.max(4, 100 * 2 ** (4 * (fit.bits - this.fits()[0].bits)));
  }

  protected show(fit: Fit): void {
    this.shown.set(fit);
    const wanted = this.treatmentWith(fit);
    if (wanted) this.treating.preview(wanted);
  }

  protected take(fit: Fit): void {
    const wanted = this.treatmentWith(fit);
    if (wanted) this.treating.apply(`Quantize to ${fit.text}`, wanted);
  }

  protected takeLag(value: number): void {
    this.treating.commit('Lag', { lag: { on: true, amount: { value, unit: 'ms' } } });
  }

  private treatmentWith(fit: Fit): Treatment | null {
    const t = this.treating.treatment();
    const swing = this.analyst.analysis()?.swing;
    if (!t) return null;
    const { restart, shift } = t.quantize.grid;
    const measured = swing && fit.grid.swing !== 0.5 ? { swing: Math.round(swing.share * 1000) / 1000 } : {};
    return {
      ...t,
      quantize: { ...t.quantize, on: true, groove: null, grid: { ...fit.grid, ...measured, restart, shift } },
    };
  }
}
