import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import {
  CONDITIONS,
  notesByBeat,
  notesLike,
  notesOnLine,
  notesWith,
  notesWithin,
  type ConditionName,
} from '@early-sparrow/core/shape';
import { counted } from '../../common/format';
import { PickOne } from '../../common/pick-one';
import { Said } from '../../common/said';
import { Player } from '../../sound/player';
import { Selecting } from '../hand/selecting';
import { NONE_SELECTED } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Panels } from '../kit/panels';
import { Acts } from './acts';
import { SELECT } from '../kit/foot-strips';

/** Selecting notes by what they are. */
@Component({
  selector: 'es-select-strip',
  imports: [PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Select notes">
      <div class="group" role="group" aria-label="By a value">
        <span>Notes with</span>
        <es-pick-one
          class="wide"
          label="What to select by"
          [value]="by()"
          [options]="conditions"
          (picked)="choose($event)"
        />
        <input
          #least
          class="number"
          type="number"
          step="any"
          aria-label="From"
          [value]="from()"
          (input)="set('from', least.valueAsNumber)"
          (change)="least.value = '' + from()"
        />
        <span>to</span>
        <input
          #most
          class="number"
          type="number"
          step="any"
          aria-label="To"
          [value]="to()"
          (input)="set('to', most.valueAsNumber)"
          (change)="most.value = '' + to()"
        />
        <span>{{ unit() }}</span>
        <button class="word" (click)="select(matching())">Select {{ notes(matching().length) }}</button>
      </div>
      <div class="group" role="group" aria-label="Quickly">
        <button class="word" (click)="byBeat(true)">On the beat</button>
        <button class="word" (click)="byBeat(false)">Off the beat</button>
        <button class="word" (click)="onLine()">On a line</button>
        <button class="word" (click)="inLoop()">Inside the loop</button>
        <button class="word" (click)="like('pitch')">Same keys as selected</button>
        <button class="word" (click)="like('beat')">Same places in the bar</button>
        <button class="word" (click)="acts.invert()">All others</button>
      </div>
      <button class="word close" (click)="panels.close(name)">Close</button>
    </section>
  `,
  styleUrl: './strips.scss',
})
export class SelectStrip {
  protected readonly panels = inject(Panels);
  protected readonly acts = inject(Acts);
  private readonly selecting = inject(Selecting);
  private readonly treating = inject(Treating);
  private readonly player = inject(Player);
  private readonly said = inject(Said);
  protected readonly name = SELECT;
  protected readonly notes = (n: number): string => counted(n, 'note');
  protected readonly by = signal<ConditionName>('velocity');
  protected readonly from = signal(1);
  protected readonly to = signal(127);
  protected readonly conditions = Object.entries(CONDITIONS).map(([value, { words }]) => ({ value, text: words }));
  protected readonly unit = computed(() => CONDITIONS[this.by()].unit);
  protected readonly matching = computed((): readonly number[] => {
    const [song, part] = [this.treating.song(), this.treating.part()];
    return song && part ? notesWith(song, part, this.player.shown(), this.by(), this.from(), this.to()) : [];
  });

  protected choose(name: string): void {
    this.by.set(name as ConditionName);
    const [from, to] = CONDITIONS[this.by()].range;
    this.from.set(from);
    this.to.set(to);
  }

  protected set(which: 'from' | 'to', value: number): void {
    if (!Number.isNaN(value)) this[which].set(value);
  }

  protected select(ids: readonly number[]): void {
    this.selecting.select(ids);
    if (ids.length === 0) this.said.say('No notes match.');
  }

  protected byBeat(on: boolean): void {
    const [song, part] = [this.treating.song(), this.treating.part()];
    if (song && part) this.select(notesByBeat(song, part, on));
  }

  protected onLine(): void {
    const [song, part] = [this.treating.song(), this.treating.part()];
    if (song && part) this.select(notesOnLine(song, part, this.player.shown()));
  }

  protected inLoop(): void {
    const [song, track] = [this.treating.song(), this.treating.track()];
    const { from, to } = this.player.loop();
    if (!song || !track) return;
    if (to <= from) {
      this.said.say('There is no loop yet. Drag in the strip above the bars.');
      return;
    }
    this.select(track.parts.flatMap((part) => notesWithin(song, part, this.player.shown(), from, to)));
  }

  protected like(by: 'pitch' | 'beat'): void {
    const [song, part] = [this.treating.song(), this.treating.part()];
    if (!song || !part) return;
    if (this.selecting.count() === 0) {
      this.said.say(NONE_SELECTED);
      return;
    }
    this.select(notesLike(song, part, this.selecting.ids(), by));
  }
}
