import { ChangeDetectionStrategy, Component, computed, input } from '@angular/core';
import { ON_LINE_MS, partOffsets } from '@early-sparrow/core/insight';
import type { Song, Track } from '@early-sparrow/core/song';

/** A track's tendency in a few words: "◂ 11 ms early", "● ±5 ms, on the line". */
@Component({
  selector: 'es-timing-chip',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span [class]="chip().lean"
    ><span aria-hidden="true">{{ chip().mark }}</span> {{ chip().text }}</span
  >`,
  styles: `
    :host {
      font-size: 13px;
    }
  `,
})
export class TimingChip {
  readonly song = input.required<Song>();
  readonly track = input.required<Track>();

  protected readonly chip = computed(() => {
    const { median, typicalMiss, early, late } = partOffsets(this.track().parts[0], this.song());
    const size = Math.round(Math.abs(median));
    if (median < -3 && early > late) return { lean: 'early', mark: '◂', text: `${size} ms early` };
    if (median > 3 && late > early) return { lean: 'late', mark: '▸', text: `${size} ms late` };
    const around = `±${Math.round(typicalMiss)} ms`;
    return {
      lean: 'on-line',
      mark: '●',
      text: typicalMiss < ON_LINE_MS ? `${around}, on the line` : `${around} around it`,
    };
  });
}
