import { ChangeDetectionStrategy, Component, computed, ElementRef, inject, signal } from '@angular/core';
import { PickOne } from '../../common/pick-one';
import { GUIDE } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Spot } from './spot';
import { walksOf, type Walk } from './walks';

/** The guide beside the desk: one walk, step by step, each with the controls that it names. */
@Component({
  selector: 'es-guide-strip',
  imports: [PickOne],
  providers: [Spot],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <section aria-label="Guide">
      <div class="group">
        <es-pick-one class="walk" label="Walk" [value]="'' + at()" [options]="titles()" (picked)="choose(+$event)" />
        <button class="word" [disabled]="step() === 0" (click)="go(step() - 1)">Back</button>
        <span class="number soft">{{ step() + 1 }} of {{ steps().length }}</span>
        <button class="word act" [disabled]="step() + 1 >= steps().length" (click)="go(step() + 1)">Next</button>
        @if (shown(); as now) {
          @for (control of now.controls; track control) {
            <button class="word chip" [attr.aria-label]="'Show ' + control" (click)="show(control)">
              {{ control }}
            </button>
          }
        }
        <span class="soft" role="status">{{ said() }}</span>
      </div>
      @if (shown(); as now) {
        <div class="text" [innerHTML]="now.html"></div>
      } @else {
        <p class="what">{{ problem() }}</p>
      }
      <button class="word close" (click)="panels.close(own)">Close</button>
    </section>
  `,
  styleUrl: '../shape/strips.scss',
  styles: `
    .walk {
      width: 260px;
    }
    .act:enabled {
      color: var(--action);
      font-weight: 600;
    }
    .chip {
      padding: 1px 8px;
      border: 1px solid var(--line);
      border-radius: 10px;
      font-size: 13px;
    }
    .text {
      max-width: 92ch;
      max-height: 150px;
      overflow: auto;
      padding: 2px 0;
      line-height: 1.5;
    }
    .text ::ng-deep p {
      margin: 0;
    }
  `,
})
export class GuideStrip {
  protected readonly panels = inject(Panels);
  protected readonly own = GUIDE;
  private readonly spot = inject(Spot);
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef);
  private readonly walks = signal<readonly Walk[]>([]);
  protected readonly problem = signal('Opening the guide …');
  protected readonly at = signal(0);
  protected readonly step = signal(0);
  protected readonly said = signal('');
  protected readonly titles = computed(() => this.walks().map(({ title }, i) => ({ value: `${i}`, text: title })));
  protected readonly steps = computed(() => this.walks().at(this.at())?.steps ?? []);
  protected readonly shown = computed(() => this.steps().at(this.step()));

  constructor() {
    void this.load();
  }

  protected choose(walk: number): void {
    this.at.set(walk);
    this.go(0);
  }

  protected go(step: number): void {
    this.spot.clear();
    this.said.set('');
    this.step.set(step);
  }

  protected show(control: string): void {
    const found = this.spot.show(control, this.host.nativeElement);
    this.said.set(found ? '' : `“${control}” is not on the screen now: an earlier step opens it.`);
  }

  private async load(): Promise<void> {
    try {
      const answer = await fetch('guide.md');
      if (!answer.ok) throw new Error(answer.statusText);
      this.walks.set(walksOf(await answer.text()));
    } catch {
      this.problem.set('The guide could not be opened. Is the program still running? Close this and open it again.');
    }
  }
}
