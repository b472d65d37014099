import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Over } from '@early-sparrow/core/edit';
import { findPart } from '@early-sparrow/core/song';
import { counted } from '../../common/format';
import type { Option } from '../../common/option';
import { PickOne } from '../../common/pick-one';
import { Said } from '../../common/said';
import { deskFeature } from '../../state/desk.feature';
import { ColourMenu } from '../controls/colour-menu';
import { Treating } from '../hand/treating';
import { PART } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { ChosenParts } from '../hand/chosen-parts';
import { PartActs } from './part-acts';
import { SongRows } from './song-rows';

/** What can be done with the chosen parts. */
@Component({
  selector: 'es-part-strip',
  imports: [ColourMenu, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Parts">
      <div class="group">
        <b class="what">{{ what() }}</b>
        <input
          #name
          class="name"
          aria-label="Name of the part"
          maxlength="200"
          [value]="part()?.name ?? ''"
          [disabled]="!part()"
          (change)="rename(name)"
          (keydown.enter)="name.blur()"
        />
        <es-colour-menu label="Colour of the parts" [value]="part()?.colour ?? null" (picked)="acts.colour($event)" />
        <button class="word" [disabled]="!part()" (click)="treating.setOn(!part()?.on)">
          {{ part()?.on ? 'Treatment off' : 'Treatment on' }}
        </button>
        <button class="word" title="All chosen parts get the treatment of the current one" (click)="acts.treatAlike()">
          Same treatment
        </button>
        <button class="word" (click)="acts.cutAtPlayhead()">Cut at the playhead</button>
        <button class="word" (click)="acts.join()">Join</button>
        <button class="word" (click)="acts.mute()">{{ part()?.muted ? 'Unmute' : 'Mute' }}</button>
        <button class="word" (click)="acts.remove()">Delete</button>
      </div>
      <div class="group">
        <button class="word" title="All tracks and parts (Shift O)" (click)="rows.toggle()">Song view</button>
        <button class="word" (click)="acts.moveByBars(-1)">A bar earlier</button>
        <button class="word" (click)="acts.moveByBars(1)">A bar later</button>
        <button class="word" (click)="acts.move(0, -1)">A track up</button>
        <button class="word" (click)="acts.move(0, 1)">A track down</button>
        <label>
          <input #times class="number" type="number" aria-label="How many times" min="1" max="2000" value="1" />
          times
        </label>
        <button class="word" (click)="acts.repeat(times.valueAsNumber)">Repeat</button>
        <span class="over">What lies in the way</span>
        <es-pick-one label="What lies in the way" [value]="acts.over()" [options]="overs" (picked)="setOver($event)" />
      </div>
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrl: '../shape/strips.scss',
  styles: `
    .what {
      width: auto;
      margin-right: 8px;
      color: var(--ink);
    }
    label,
    .over {
      margin-left: 8px;
      color: var(--soft);
    }
  `,
})
export class PartStrip {
  protected readonly panels = inject(Panels);
  protected readonly acts = inject(PartActs);
  protected readonly rows = inject(SongRows);
  protected readonly treating = inject(Treating);
  private readonly chosen = inject(ChosenParts);
  private readonly said = inject(Said);
  private readonly song = inject(Store).selectSignal(deskFeature.selectSong);
  protected readonly own = PART;
  protected readonly what = computed(() => counted(this.chosen.ids().length, 'part'));
  protected readonly part = computed(() => {
    const song = this.song();
    return song ? (findPart(song, this.chosen.ids()[0] ?? '')?.part ?? null) : null;
  });
  protected readonly overs: readonly Option[] = [
    { value: 'refuse', text: 'stays: nothing is done' },
    { value: 'cut', text: 'is cut out' },
    { value: 'push', text: 'is pushed behind' },
  ];

  protected setOver(value: string): void {
    this.acts.over.set(value as Over);
  }

  protected rename(field: HTMLInputElement): void {
    const name = field.value.trim();
    if (name && name !== this.part()?.name) this.acts.name(name);
    else if (!name) this.said.say('A part needs a name.');
    field.value = this.part()?.name ?? '';
  }
}
