import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { ON_LINE_MS } from '@early-sparrow/core/insight';
import { earlyOrLate } from '../common/format';
import type { TrackGlance } from '../storage/database';

const STEP = 3;
const ROW = 6;

/** A song's tracks as a tiny picture: where they play, in the colour of their lean. */
@Component({
  selector: 'es-song-glance',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg
      [attr.viewBox]="box()"
      [attr.height]="height()"
      preserveAspectRatio="none"
      role="img"
      [attr.aria-label]="told()"
    >
      @for (row of rows(); track $index) {
        <path [attr.d]="row.path" [attr.class]="row.lean">
          <title>{{ row.title }}</title>
        </path>
      }
    </svg>
  `,
  styles: `
    :host {
      display: block;
      line-height: 0;
    }
    svg {
      width: 100%;
    }
    path {
      fill: currentColor;
    }
  `,
})
export class SongGlance {
  readonly tracks = input.required<readonly TrackGlance[]>();
  protected readonly height = computed(() => Math.min(44, this.tracks().length * ROW));
  protected readonly box = computed(
    () => `0 0 ${(this.tracks()[0]?.density.length ?? 1) * STEP} ${Math.max(1, this.tracks().length) * ROW}`,
  );

  protected readonly rows = computed(() =>
    this.tracks().map(({ name, density, leanMs }, i) => ({
      lean: leanMs < -ON_LINE_MS ? 'early' : leanMs > ON_LINE_MS ? 'late' : 'on-line',
      title: `${name}, ${earlyOrLate(leanMs)}`,
      path: [...density]
        .map((digit, k) => {
          const h = digit === '0' ? 0 : 1 + (Number(digit) * (ROW - 2)) / 9;
          return h === 0 ? '' : `M${k * STEP} ${(i + 1) * ROW - 1}v${-h}h${STEP - 0.6}v${h}z`;
        })
        .join(''),
    })),
  );

  /** How many tracks lean which way. */
  protected readonly told = computed(() => {
    const count = (lean: string) => this.rows().filter((r) => r.lean === lean).length;
    return `Tracks: ${count('early')} early, ${count('late')} late, ${count('on-line')} on the lines`;
  });
}
