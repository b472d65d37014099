import { ChangeDetectionStrategy, Component, computed, effect, ElementRef, inject } from '@angular/core';
import { MatMenuModule } from '@angular/material/menu';
import { counted, countedFirst, shortMs } from '../../common/format';
import { Panels } from '../kit/panels';
import { FitsPanel } from '../fits/fits-panel';
import { HumanizeStage } from './humanize-stage';
import { LagStage } from './lag-stage';
import { LengthsStage } from './lengths-stage';
import { PushStage } from './push-stage';
import { QuantizeStage } from './quantize-stage';
import { RecipePanel } from './recipe-panel';
import { RECIPES } from './names';
import { Selecting } from '../hand/selecting';
import { Shaping } from '../hand/shaping';
import { Treating } from '../hand/treating';
import { Ways } from '../hand/ways';
import { VelocityStage } from './velocity-stage';
import { Versions } from './versions';

/** The treatment of a part as sentences, and in the last line what all of it does. */
@Component({
  selector: 'es-treatment-panel',
  imports: [
    LagStage,
    QuantizeStage,
    FitsPanel,
    LengthsStage,
    PushStage,
    VelocityStage,
    HumanizeStage,
    RecipePanel,
    MatMenuModule,
    Versions,
  ],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (treating.part(); as part) {
      <div class="scroll">
        <header>
          <h2 tabindex="-1" [title]="part.name">{{ part.name }}</h2>
          <span class="count">{{ who() }}</span>
          <button
            class="power word"
            role="switch"
            [attr.aria-checked]="part.on"
            [attr.aria-label]="treating.parts().length > 1 ? 'Treatment of all chosen parts' : 'Treatment of the part'"
            (click)="treating.setOn(!part.on)"
          >
            {{ part.on ? 'On' : 'Off' }}
          </button>
        </header>
        <div class="chips">
          @if (treating.set()) {
            <button class="chip" (click)="back()">← whole part</button>
          }
          @for (chip of selecting.chips(); track chip.key) {
            <button
              class="chip"
              [class.current]="chip.setId !== null && chip.setId === treating.set()?.id"
              [attr.aria-label]="'Select ' + chip.text"
              (click)="selecting.choose(chip)"
            >
              {{ chip.text }}
            </button>
          }
          <button class="chip recipes" [attr.aria-expanded]="panels.isOpen(recipes)" (click)="panels.toggle(recipes)">
            Recipes
          </button>
          <button class="chip" [matMenuTriggerFor]="keeps">Keep</button>
          <mat-menu #keeps="matMenu">
            <button mat-menu-item (click)="selecting.keep()">Keep {{ subject() }} as corrected</button>
            <button mat-menu-item (click)="take(true, true, true)">Return {{ subject() }} to the take</button>
            <button mat-menu-item (click)="take(true, false, false)">Return starts only</button>
            <button mat-menu-item (click)="take(false, true, false)">Return lengths only</button>
            <button mat-menu-item (click)="take(false, false, true)">Return velocities only</button>
          </mat-menu>
          @if (!treating.set() && treating.parts().length === 1) {
            <es-versions />
          }
        </div>
        @if (panels.isOpen(recipes)) {
          <es-recipe-panel (closed)="panels.close(recipes)" />
        }
        @if (selecting.count() > 0) {
          <div class="chips selection">
            <span>{{ shaping.selectedWords() }}</span>
            <button class="chip" (click)="selecting.ownSettings()">own settings</button>
            <button class="chip" (click)="selecting.asPlayed()">as played</button>
            <button class="chip" (click)="selecting.pin()">pin</button>
            <button class="chip" (click)="selecting.release()">back</button>
            @if (shaping.pinWords(); as words) {
              <p class="way">{{ words }}</p>
            }
            @if (ways.words(); as way) {
              <p class="way" title="What each stage did to this note, in its order">{{ way }}</p>
            }
          </div>
        }
        <div [class.off]="!part.on">
          <es-lag-stage />
          <es-quantize-stage />
          <es-fits-panel />
          <es-lengths-stage />
          <es-push-stage />
          <es-velocity-stage />
          <es-humanize-stage />
        </div>
      </div>
      <p class="sum" role="status">
        @if (trying(); as text) {
          <b>{{ text }}</b>
        }
        {{ summary() }}
      </p>
    }
  `,
  styles: `
    :host {
      display: flex;
      flex-direction: column;
      min-height: 0;
    }
    .scroll {
      position: relative;
      flex: 1;
      min-height: 0;
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
    }
    .way {
      flex-basis: 100%;
      margin: 0;
      font-size: 13px;
      line-height: 1.35;
      color: var(--soft);
    }
    .chips {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 6px;
      padding-bottom: 10px;
      font-size: 14px;
    }
    .chip {
      border: 1px solid var(--line);
      border-radius: 14px;
      padding: 2px 10px;
      background: none;
      color: var(--ink);
      font: inherit;
      font-size: 13px;
      cursor: pointer;
    }
    .chip:hover,
    .chip.current {
      border-color: var(--action);
      color: var(--action);
    }
    .off {
      opacity: 0.55;
    }
    h2:focus {
      outline: none;
    }
    /* Always in sight: what the whole treatment does, or what is only shown. */
    .sum {
      margin: 0;
      padding: 8px 16px;
      /* Three lines: as many as a preview has, so that it does not grow over what the pointer rests on. */
      min-height: 80px;
      border-top: 1px solid var(--line);
      color: var(--soft);
      font-size: 14px;
    }
    .sum b {
      color: var(--action);
      font-weight: 600;
    }
  `,
})
export class TreatmentPanel {
  protected readonly treating = inject(Treating);
  protected readonly selecting = inject(Selecting);
  protected readonly shaping = inject(Shaping);
  protected readonly ways = inject(Ways);
  protected readonly panels = inject(Panels);
  private readonly element = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  protected readonly recipes = RECIPES;

  constructor() {
    // The recipes go with the focus in them: it goes to what opened them.
    let was = false;
    effect(() => {
      const is = this.panels.isOpen(RECIPES);
      const lost = document.activeElement?.closest('es-recipe-panel, body > *') ?? null;
      if (was && !is && (lost === null || lost.matches('es-recipe-panel'))) {
        this.element.querySelector<HTMLElement>('.recipes')?.focus();
      }
      was = is;
    });
  }

  protected readonly who = computed(() => {
    const set = this.treating.set();
    const part = this.treating.part();
    const parts = this.treating.parts();
    if (!set && parts.length > 1) {
      return `and ${parts.length - 1} more: ${this.treating.mixed() ? 'different settings; a change applies to all' : 'all the same'}`;
    }
    if (!set) return `whole part, ${counted(part?.notes.length ?? 0, 'note')}`;
    return `${set.name}, ${counted(this.treating.subjectNotes()?.length ?? 0, 'note')}`;
  });
  protected readonly subject = computed(() => (this.selecting.count() > 0 ? 'the selected notes' : 'the part'));
  /** That what is seen is only tried; a slider under the finger needs no such word. */
  protected readonly trying = computed(() => {
    const edit = this.treating.trying();
    return edit && this.treating.resting() ? `Preview: ${edit.name.split(',')[0]}. Click to apply.` : null;
  });

  protected take(starts: boolean, lengths: boolean, velocities: boolean): void {
    this.selecting.toTake({ starts, lengths, velocities });
  }

  /** The chip goes with what it leads back from: the focus goes to the part's name. */
  protected back(): void {
    this.element.querySelector<HTMLElement>('h2')?.focus();
    this.selecting.wholePart();
  }

  /** "388 of 412 notes move, typically 7 ms, at most 29 ms. No merges." */
  protected readonly summary = computed(() => {
    const r = this.treating.report();
    const part = this.treating.shownPart();
    if (!r || !part) return '';
    if (!part.on) return 'The part sounds as played.';
    if (r.moved === 0 && r.resized === 0 && r.reweighted === 0 && r.dropped === 0) return 'Nothing moves.';
    const verb = r.notes === 1 ? 'note moves' : r.moved === 1 ? 'notes moves' : 'notes move';
    const moves =
      r.moved === 0
        ? 'No starts move.'
        : `${r.moved} of ${r.notes} ${verb}, typically ${ms(r.typicalMoveMs)}, at most ${ms(r.largestMoveMs)}.`;
    const merges =
      r.merges === 0 ? 'No merges.' : `${countedFirst(r.merges, 'chord')} ${r.merges === 1 ? 'merges' : 'merge'}.`;
    const doubles = r.doubles - r.dropped;
    const more = [
      r.resized > 0 ? `${countedFirst(r.resized, 'length')} ${r.resized === 1 ? 'changes' : 'change'}.` : '',
      r.reweighted > 0
        ? `${countedFirst(r.reweighted, 'velocity', 'velocities')} ${r.reweighted === 1 ? 'changes' : 'change'}.`
        : '',
      doubles > 0 ? `${countedFirst(doubles, 'note')} ${doubles === 1 ? 'doubles' : 'double'} another.` : '',
      r.dropped > 0 ? `${countedFirst(r.dropped, 'double')} muted.` : '',
      r.held > 0
        ? `${countedFirst(r.held, 'note')} would start before the song and ${r.held === 1 ? 'is' : 'are'} held at its start.`
        : '',
      r.reordered > 0 ? `${countedFirst(r.reordered, 'note')} ${r.reordered === 1 ? 'changes' : 'change'} order.` : '',
      r.cut > 0 ? `${countedFirst(r.cut, 'note')} ${r.cut === 1 ? 'is' : 'are'} cut where the key starts again.` : '',
    ];
    return [moves, merges, ...more].filter(Boolean).join(' ');
  });
}

function ms(value: number): string {
  return `${shortMs(value)}\u00a0ms`;
}
