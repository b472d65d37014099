import { ChangeDetectionStrategy, Component, computed, inject, input } from '@angular/core';
import {
  leansThroughout,
  leavesBeat,
  ON_LINE_MS,
  offsetsPieces,
  summarize,
  type OffsetSummary,
} from '@early-sparrow/core/insight';
import type { Part, Song } from '@early-sparrow/core/song';
import { unhurriedPieces } from '../../common/unhurried';
import { Analyst } from '../fits/analyst';

const NO_OFFSETS = summarize(new Float64Array());

interface Tendency {
  readonly lean: 'early' | 'late' | 'on-line';
  readonly mark: string;
  readonly text: string;
  /** In words, where it leans: "late". */
  readonly direction?: string;
}

/** A part's tendency in a few words, and what became of it: "◂ 11 ms early → ● ±2 ms", "▸ 24 → ▸ 46 ms late". */
@Component({
  selector: 'es-timing-chip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <span [class]="was().lean"
      ><span aria-hidden="true">{{ was().mark }}</span> {{ was().text }}</span
    >
    @if (is(); as now) {
      <span class="now">
        <span aria-hidden="true">→ </span><span class="unseen">, now</span>
        <span [class]="now.lean"
          ><span aria-hidden="true">{{ now.mark }}</span> {{ now.text }}</span
        >
      </span>
    }
  `,
  styles: `
    :host {
      display: flex;
      min-width: 0;
      font-size: 13px;
      white-space: nowrap;
    }
    /* What became of it stays in sight; what it was gives way. */
    :host > span:first-child {
      min-width: 0;
      overflow: hidden;
      text-overflow: ellipsis;
    }
    .now {
      flex: none;
      margin-left: 4px;
      color: var(--soft);
    }
  `,
})
export class TimingChip {
  readonly song = input.required<Song>();
  readonly part = input.required<Part>();

  private readonly offsets = unhurriedPieces(
    () => ({ song: this.song(), part: this.part() }),
    ({ song, part }) => offsetsPieces(part, song),
  );
  private readonly played = computed(() => this.offsets()?.played ?? NO_OFFSETS);
  private readonly now = computed(() => this.offsets()?.now ?? NO_OFFSETS);
  private readonly changed = computed(() => JSON.stringify(this.played()) !== JSON.stringify(this.now()));
  private readonly analyst = inject(Analyst, { optional: true });
  /** What a wandering player's time does; a tendency would say that it leans where it only comes and goes. */
  private readonly wandering = computed((): Tendency | null => {
    const lag = this.analyst?.of(this.part().notes)?.lag;
    if (!lag?.drifting) return null;
    if (leavesBeat(lag, this.part(), this.song())) return { lean: 'on-line', mark: '○', text: 'off the bars' };
    const text = `wandering ±${Math.round(lag.wanderMs)} ms`;
    const size = Math.round(Math.abs(lag.ms));
    if (size <= 3) return { lean: 'on-line', mark: '●', text };
    return lag.ms < 0
      ? { lean: 'early', mark: '◂', text: `${size} ms early, ${text}` }
      : { lean: 'late', mark: '▸', text: `${size} ms late, ${text}` };
  });
  /** The track that the part lines up with: its offsets are against that. */
  private readonly against = computed(() => {
    const use = this.part().treatment.quantize.with;
    return this.song().tracks.find((t) => t.id === use?.track && !t.parts.includes(this.part()))?.name ?? null;
  });
  /** Where no note has a line there is no offset to tell. */
  private readonly nothing = computed((): Tendency | null => {
    if (this.played().chords > 0) return null;
    return { lean: 'on-line', mark: '○', text: this.part().notes.length > 0 ? 'no notes treated' : 'no notes' };
  });
  /** What became of it; null while nothing is on that moves notes. */
  protected readonly is = computed(() => {
    if (!this.changed()) return null;
    return tendency(this.now(), false, this.against() ? ['ahead', 'behind'] : ['early', 'late']);
  });
  protected readonly was = computed(() => {
    const name = this.against();
    const directions = name ? ([`ahead of ${name}`, `behind ${name}`] as const) : (['early', 'late'] as const);
    return this.nothing() ?? this.wandering() ?? tendency(this.played(), !this.changed(), directions, this.is());
  });
}

/** What both say is said in the second, `beside`, alone: two whole tendencies do not find room in a track's head. */
function tendency(
  offsets: OffsetSummary,
  alone: boolean,
  [before, after]: readonly [string, string],
  beside: Tendency | null = null,
): Tendency {
  const { median, typicalMiss } = offsets;
  if (leansThroughout(offsets) && Math.abs(median) > 3) {
    const direction = median < 0 ? before : after;
    const text = [
      `${Math.round(Math.abs(median))}`,
      ...(beside?.direction ? [] : ['ms']),
      ...(beside?.direction === direction ? [] : [direction]),
    ].join(' ');
    return { ...(median < 0 ? { lean: 'early', mark: '◂' } : { lean: 'late', mark: '▸' }), text, direction };
  }
  const around = `±${Math.round(typicalMiss)} ms`;
  if (!alone) return { lean: 'on-line', mark: '●', text: around };
  return {
    lean: 'on-line',
    mark: '●',
    text: typicalMiss < ON_LINE_MS ? `${around}, on the line` : `${around} around it`,
  };
}
