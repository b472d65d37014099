import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { SCALES, type ScaleName } from '@early-sparrow/core/shape';
import { PITCH_NAMES } from '../../common/format';
import { PickOne } from '../../common/pick-one';
import { ListeningSettings } from '../../sound/listening-settings';
import { Shaping } from '../hand/shaping';
import { readable } from '../kit/keys';
import { Panels } from '../kit/panels';
import { LanesMenu } from '../picture/lanes-menu';
import { Showing } from '../picture/showing';
import { Acts } from './acts';
import { Drawing } from './drawing';
import { SELECT, SHAPE, TIDY, toggleStrip } from '../kit/foot-strips';

/** Lengths in quarter notes, as their note values are written. */
const LENGTHS: readonly (readonly [quarters: number, name: string])[] = [
  [4, '1/1'],
  [2, '1/2'],
  [1, '1/4'],
  [0.5, '1/8'],
  [1 / 3, '1/8T'],
  [0.25, '1/16'],
  [1 / 6, '1/16T'],
  [0.125, '1/32'],
];
const STEP = 'step';

/** What can be done with the selected notes, by press of a button. */
@Component({
  selector: 'es-shape-strip',
  imports: [LanesMenu, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Shape">
      <p class="what" role="status">{{ what() }}</p>
      <div class="group" role="group" aria-label="Length">
        <b>Length</b>
        <button class="word" (click)="acts.byStep(-1)">Shorter</button>
        <button class="word" (click)="acts.byStep(1)">Longer</button>
        <button class="word" title="Each note rings until the next one begins" (click)="acts.legato()">Legato</button>
        <button class="word" (click)="acts.toNextLine()">To the next line</button>
        <button class="word" (click)="acts.toPartEnd()">To the part’s end</button>
        <span class="pair">
          <es-pick-one label="Length to set" [value]="length()" [options]="lengths" (picked)="length.set($event)" />
          <button class="word" (click)="acts.setLength(+length())">Set</button>
        </span>
      </div>
      <div class="group" role="group" aria-label="Time">
        <b>Time</b>
        <button class="word" title="A little more human (,)" (click)="acts.looser()">Looser</button>
        <button class="word" title="A little closer to the lines (.)" (click)="acts.tighter()">Tighter</button>
        <button class="word" (click)="acts.stretch(0.5)">Half as long</button>
        <button class="word" (click)="acts.stretch(2)">Twice as long</button>
        <span class="pair">
          <input
            #factor
            class="number"
            value="1.5"
            inputmode="decimal"
            aria-label="Factor to stretch by"
            (keydown.enter)="stretch(factor.value)"
          />
          <button class="word" (click)="stretch(factor.value)">Stretch</button>
        </span>
        <button class="word" (click)="acts.reverse()">Reverse</button>
        <button class="word" (click)="acts.cutAtLines()">Cut at the lines</button>
        <button class="word" (click)="acts.join()">Join</button>
        <button class="word" (click)="acts.duplicate()">Duplicate</button>
      </div>
      <div class="group" role="group" aria-label="Pitch">
        <b>Pitch</b>
        @for (by of [-12, -1, 1, 12]; track by) {
          <button
            class="word number"
            [attr.aria-label]="'Transpose by ' + by + ' semitones'"
            (click)="acts.transpose(by)"
          >
            {{ by > 0 ? '+' : '−' }}{{ by > 0 ? by : -by }}
          </button>
        }
        <span class="pair">
          <es-pick-one label="Root of the scale" [value]="root()" [options]="roots" (picked)="root.set($event)" />
          <es-pick-one class="wide" label="Scale" [value]="scale()" [options]="scales" (picked)="setScale($event)" />
          <button class="word" (click)="acts.intoScale(+root(), scale())">Move into the scale</button>
        </span>
        <button class="word" (click)="acts.oneKey()">All on one key</button>
      </div>
      <div class="group" role="group" aria-label="More">
        <b>More</b>
        <button class="word" (click)="open(select)">Select notes by …</button>
        <button class="word" (click)="open(tidy)">Tidy …</button>
        <es-lanes-menu />
        <button
          class="word"
          title="Rows for all keys of a kit, or only for those played (Alt K)"
          (click)="showing.toggleKeys()"
        >
          Keys of a kit
        </button>
        <span class="pair">
          <span>New notes last</span>
          <es-pick-one
            class="wide"
            label="Length of new notes"
            [value]="drawn()"
            [options]="drawnLengths"
            (picked)="draw($event)"
          />
        </span>
        <label>
          <input type="checkbox" [checked]="touch()" (change)="listening.set({ touch: !touch() })" />
          Notes sound when touched
        </label>
      </div>
      <button class="word close" (click)="panels.close(shape)">Close</button>
    </section>
  `,
  styleUrl: './strips.scss',
})
export class ShapeStrip {
  protected readonly panels = inject(Panels);
  protected readonly acts = inject(Acts);
  protected readonly showing = inject(Showing);
  protected readonly listening = inject(ListeningSettings);
  private readonly shaping = inject(Shaping);
  private readonly drawing = inject(Drawing);
  protected readonly shape = SHAPE;
  protected readonly select = SELECT as typeof SELECT;
  protected readonly tidy = TIDY as typeof TIDY;
  protected readonly length = signal('0.5');
  protected readonly root = signal('0');
  protected readonly scale = signal<ScaleName>('major');
  protected readonly lengths = LENGTHS.map(([quarters, text]) => ({ value: String(quarters), text }));
  protected readonly drawnLengths = [{ value: STEP, text: 'a step of the grid' }, ...this.lengths];
  protected readonly roots = PITCH_NAMES.map((text, i) => ({ value: String(i), text }));
  protected readonly scales = Object.keys(SCALES).map((name) => ({ value: name, text: name }));
  protected readonly drawn = computed(() => String(this.drawing.values().quarters ?? STEP));
  protected readonly touch = computed(() => this.listening.values().touch);

  protected readonly what = computed(
    () =>
      this.shaping.selectedWords() ??
      `No notes are selected. Click one, drag over some, or press ${readable('$mod+a')}.`,
  );

  protected open(name: typeof SELECT | typeof TIDY): void {
    toggleStrip(this.panels, name);
  }

  protected setScale(name: string): void {
    this.scale.set(name as ScaleName);
  }

  protected stretch(text: string): void {
    this.acts.stretch(text.trim() === '' ? NaN : Number(text.replace(',', '.')));
  }

  protected draw(length: string): void {
    this.drawing.values.set({ quarters: length === STEP ? null : Number(length) });
  }
}
