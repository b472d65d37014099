import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { LagStage } from './lag-stage';
import { QuantizeStage } from './quantize-stage';
import { Treating } from './treating';

/** The treatment of a part as sentences, and in the last line what all of it does. */
@Component({
  selector: 'es-treatment-panel',
  imports: [LagStage, QuantizeStage],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (treating.part(); as part) {
      <header>
        <h2 [title]="part.name">{{ part.name }}</h2>
        <span class="count">whole part, {{ part.notes.length }} notes</span>
        <button
          class="power word"
          role="switch"
          [attr.aria-checked]="part.on"
          aria-label="Treatment of the part"
          (click)="treating.setOn(!part.on)"
        >
          {{ part.on ? 'On' : 'Off' }}
        </button>
      </header>
      <div [class.off]="!part.on">
        <es-lag-stage />
        <es-quantize-stage />
      </div>
      <p class="sum" role="status">{{ summary() }}</p>
    }
  `,
  styles: `
    :host {
      display: block;
      overflow: auto;
      padding: 16px 16px 24px;
    }
    header {
      display: grid;
      grid-template-columns: minmax(0, 1fr) auto;
      align-items: center;
      padding-bottom: 12px;
    }
    .power {
      grid-area: 1 / 2 / 3 / 3;
      border: 1px solid var(--line);
      padding: 4px 12px;
    }
    .power[aria-checked='true'] {
      border-color: var(--action);
      color: var(--action);
      font-weight: 600;
    }
    h2 {
      min-width: 0;
      margin: 0;
      font-size: 17px;
      overflow: hidden;
      text-overflow: ellipsis;
      white-space: nowrap;
    }
    .count {
      color: var(--soft);
      white-space: nowrap;
    }
    .off {
      opacity: 0.55;
    }
    .sum {
      margin: 0;
      padding-top: 12px;
      border-top: 1px solid var(--line);
      color: var(--soft);
    }
  `,
})
export class TreatmentPanel {
  protected readonly treating = inject(Treating);

  /** "388 of 412 notes move, typically 7 ms, at most 29 ms. No merges." */
  protected readonly summary = computed(() => {
    const r = this.treating.report();
    if (!r) return '';
    if (!this.treating.part()?.on) return 'The part sounds as played.';
    if (r.moved === 0 && r.resized === 0 && r.reweighted === 0) return 'Nothing moves.';
    const moves = `${r.moved} of ${r.notes} notes move, typically ${ms(r.typicalMoveMs)}, at most ${ms(r.largestMoveMs)}.`;
    const merges = r.merges === 0 ? 'No merges.' : r.merges === 1 ? 'One chord merges.' : `${r.merges} chords merge.`;
    const more = [
      r.doubles > 0 ? `${r.doubles} ${r.doubles === 1 ? 'note doubles' : 'notes double'} another.` : '',
      r.reordered > 0 ? `${r.reordered} ${r.reordered === 1 ? 'note changes' : 'notes change'} places.` : '',
      r.cut > 0 ? `${r.cut} ${r.cut === 1 ? 'is' : 'are'} cut where the key starts again.` : '',
    ];
    return [moves, merges, ...more].filter(Boolean).join(' ');
  });
}

function ms(value: number): string {
  return `${value < 9.95 ? value.toFixed(1) : value.toFixed(0)} ms`;
}
