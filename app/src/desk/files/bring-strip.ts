import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import type { BroughtTempo } from '@early-sparrow/core/edit';
import type { Option } from '../../common/option';
import { Choice } from '../controls/choice';
import { BRING } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Bringing, type BroughtTo } from './bringing';

/** How a MIDI file comes into the open song. */
@Component({
  selector: 'es-bring-strip',
  imports: [Choice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Bring in a MIDI file">
      <p class="what">
        <b class="name" [title]="bringing.file()?.name">{{ bringing.file()?.name }}</b> {{ bringing.what() }}
      </p>
      <div class="group">
        <es-choice label="Where it comes in" [value]="bringing.to()" [options]="places" (picked)="setTo($event)" />
        <es-choice label="Tempo" [value]="bringing.tempo()" [options]="tempi" (picked)="setTempo($event)" />
        <button class="main small" (click)="bringing.bring()">Bring it in</button>
      </div>
      <button class="word close" (click)="panels.close(own)">Cancel</button>
    </section>
  `,
  styleUrl: '../shape/strips.scss',
  styles: `
    .group {
      gap: 8px 20px;
      padding: 4px 0;
    }
    .name {
      display: inline-block;
      width: auto;
      max-width: 360px;
      margin-right: 8px;
      overflow: hidden;
      text-overflow: ellipsis;
      vertical-align: bottom;
      white-space: nowrap;
      color: var(--ink);
    }
    es-choice {
      margin-top: 0;
    }
  `,
})
export class BringStrip {
  protected readonly bringing = inject(Bringing);
  protected readonly panels = inject(Panels);
  protected readonly own = BRING;
  protected readonly places: readonly Option[] = [
    { value: 'bars', text: 'at its own bars' },
    { value: 'playhead', text: 'at the playhead' },
  ];
  protected readonly tempi: readonly Option[] = [
    { value: 'bars', text: 'at the song’s tempo' },
    { value: 'seconds', text: 'as fast as it was' },
    { value: 'file', text: 'the song takes its tempo' },
  ];

  protected setTo(value: string): void {
    this.bringing.to.set(value as BroughtTo);
  }

  protected setTempo(value: string): void {
    this.bringing.tempo.set(value as BroughtTempo);
  }
}
