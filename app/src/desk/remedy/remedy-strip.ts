import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { STRENGTHS } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { REMEDY } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { changeWords, leanWords, tableWords, wanderWords, whyWords } from './remedy-words';
import { Remedying, type Row } from './remedying';

const SURE = 'sure';

/** All tracks in one table: what each was played like, what it needs, why, and how sure that is. */
@Component({
  selector: 'es-remedy-strip',
  imports: [PickOne],
  providers: [Remedying],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './remedy-strip.html',
  styleUrls: ['../kit/table-strip.scss', './remedy-strip.scss'],
})
export class RemedyStrip {
  protected readonly panels = inject(Panels);
  protected readonly remedying = inject(Remedying);
  protected readonly own = REMEDY;
  protected readonly sureName = SURE;
  protected readonly strengths = STRENGTHS;
  protected readonly lean = leanWords;
  protected readonly wander = wanderWords;
  protected readonly change = changeWords;
  protected readonly why = whyWords;
  protected readonly summary = computed(() => tableWords(this.remedying.rows()));

  protected state({ remedy, applied, left }: Row): string {
    if (applied) return 'applied';
    if (left) return 'left';
    return remedy.state === 'good' ? 'good as played' : remedy.state;
  }

  protected hear(row: Row): void {
    this.remedying.toggleHearing(row.track.id, [row]);
  }
}
