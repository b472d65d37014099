import { Taking } from './taking';
import {
  afterNextRender,
  afterRenderEffect,
  ChangeDetectionStrategy,
  Component,
  computed,
  effect,
  type ElementRef,
  inject,
  Injector,
  viewChild,
} from '@angular/core';
import { Store } from '@ngrx/store';
import { byLines } from '@early-sparrow/core/grid';
import { factsOf } from '@early-sparrow/core/treatment';
import type { TakeRound } from '@early-sparrow/core/song';
import { readPalette, Theme } from '../../common/theme';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { Canvas, type DrawnLayer } from '../kit/canvas';
import { BEST_TAKES, toggleStrip } from '../kit/foot-strips';
import { Panels } from '../kit/panels';
import { Viewport } from '../kit/viewport';
import { drawnTakes, drawTakes, TAKE_ROW } from './draw-takes';

/** The takes of the current part: choose one by ear, or bring a stretch of one into another. */
@Component({
  selector: 'es-takes-bar',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (rounds().length > 0) {
      <div class="bar" [class.folded]="comparing()" role="group" aria-label="What to do with the takes">
        <b>Takes</b>
        @if (stretch(); as span) {
          <span class="soft">Replace the selection with</span>
          @for (round of others(); track round.id) {
            <button class="word" (click)="bring(round, span)">{{ round.name }}</button>
          }
        }
        <button class="word" [attr.aria-expanded]="comparing()" (click)="compare()">Compare bar by bar</button>
        <button class="word" (click)="alone()">Keep this take, delete the others</button>
      </div>
      <!-- While they are compared, the table has their names and numbers, and the roll needs the room. -->
      <div class="rows" role="radiogroup" aria-label="Takes" [class.folded]="comparing()">
        <div #host class="canvas" [style.height.px]="rounds().length * rowHeight"></div>
        @for (round of rounds(); track round.id; let i = $index) {
          <button
            role="radio"
            [style.height.px]="rowHeight"
            [attr.aria-checked]="round.id === chosen()"
            [attr.aria-label]="round.name"
            [tabindex]="round.id === chosen() ? 0 : -1"
            (keydown)="arrow($event)"
            [title]="
              round.notes.length + ' notes, typically ' + (drawn()[i]?.missMs ?? 0).toFixed(0) + ' ms off their lines'
            "
            (click)="choose(round)"
          >
            {{ round.name }}
          </button>
        }
      </div>
    }
  `,
  styles: `
    .bar {
      display: flex;
      flex-wrap: wrap;
      align-items: center;
      gap: 4px 8px;
      padding: 4px 12px;
      background: var(--raised);
      font-size: 14px;
    }
    .rows {
      position: relative;
      max-height: 132px;
      overflow: hidden auto;
      border-bottom: 1px solid var(--line);
    }
    .rows.folded {
      display: none;
    }
    @media (max-height: 699px) {
      .bar.folded {
        display: none;
      }
    }
    .canvas {
      position: absolute;
      inset: 0 0 auto;
    }
    .rows button {
      position: relative;
      display: block;
      width: 100%;
      padding: 0 0 0 8px;
      border: 0;
      background: none;
      color: var(--ink);
      font: inherit;
      font-size: 12.5px;
      text-align: left;
      cursor: pointer;
    }
    .rows button[aria-checked='true'] {
      font-weight: 700;
    }
    .rows button:focus-visible {
      outline-offset: -2px;
    }
    .soft {
      color: var(--soft);
      margin-left: 8px;
    }
  `,
})
export class TakesBar {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly view = inject(Viewport);
  private readonly theme = inject(Theme);
  private readonly host = viewChild<ElementRef<HTMLElement>>('host');
  protected readonly rowHeight = TAKE_ROW;
  private readonly selection = this.store.selectSignal(deskFeature.selectSelection);

  private readonly taking = inject(Taking);
  private readonly panels = inject(Panels);
  protected readonly comparing = computed(() => this.panels.isOpen(BEST_TAKES));
  protected readonly rounds = this.taking.rounds;
  protected readonly chosen = this.taking.chosen;
  protected readonly others = computed(() => this.rounds().filter((r) => r.id !== this.chosen()));
  /** What the selection means of each take: from halfway before its first line to halfway behind its last. */
  protected readonly stretch = computed((): { from: number; to: number } | null => {
    const [part, song] = [this.part(), this.song()];
    const ids = new Set(this.selection());
    if (!part || !song || ids.size === 0) return null;
    const { line, lines } = factsOf(part, song);
    const chosen = line.filter((_, i) => ids.has(part.notes[i].id)).sort();
    if (chosen.length === 0) return null;
    lines.locate(chosen[chosen.length - 1]);
    const { from, to } = byLines({ from: chosen[0], to: lines.after }, lines);
    return { from: Math.max(0, Math.round(from)), to: Math.round(to) };
  });

  protected readonly drawn = computed(() => {
    const part = this.part();
    const song = this.song();
    return part && song && this.rounds().length > 0 ? drawnTakes(part, this.rounds(), song) : [];
  });
  private canvas: { readonly element: HTMLElement; readonly canvas: Canvas; readonly layer: DrawnLayer } | null = null;

  constructor() {
    const injector = inject(Injector);
    // Of many takes the chosen one stays in sight.
    effect(() => {
      void [this.chosen(), this.comparing()];
      afterNextRender(() => this.chosenRow()?.scrollIntoView({ block: 'nearest' }), { injector });
    });
    afterRenderEffect(() => {
      const element = this.host()?.nativeElement;
      const width = this.view.width();
      const height = this.rounds().length * TAKE_ROW;
      if (this.canvas && this.canvas.element !== element) {
        this.canvas.canvas.destroy();
        this.canvas = null;
      }
      if (!element || width === 0) return;
      if (!this.canvas) {
        const canvas = new Canvas(element);
        const layer = canvas.layer((ctx) => drawTakes({ ctx, view: this.view, colors: readPalette() }, this.drawn()));
        this.canvas = { element, canvas, layer };
      }
      this.canvas.canvas.resize(width, height);
    });
    // What goes by or changes colour is drawn anew on the same canvas.
    effect(() => {
      void [this.drawn(), this.theme.name(), this.view.left(), this.view.scale()];
      this.canvas?.layer.redraw();
    });
  }

  private chosenRow(): HTMLElement | null {
    return this.host()?.nativeElement.parentElement?.querySelector<HTMLElement>('[aria-checked="true"]') ?? null;
  }

  protected choose(round: TakeRound): void {
    this.taking.choose(round);
  }

  /** Arrow keys go from take to take, as in every group of radio buttons. */
  protected arrow(event: KeyboardEvent): void {
    const by = { ArrowDown: 1, ArrowRight: 1, ArrowUp: -1, ArrowLeft: -1 }[event.key];
    if (by === undefined || event.altKey) return;
    event.preventDefault();
    this.taking.step(by);
    const group = (event.currentTarget as HTMLElement).parentElement;
    setTimeout(() => group?.querySelector<HTMLElement>('[aria-checked="true"]')?.focus());
  }

  /** What the other take has where the selection is comes in, and what was there goes into that. */
  protected bring({ id, name }: TakeRound, { from, to }: { from: number; to: number }): void {
    const part = this.part();
    if (!part) return;
    const range = { from, to };
    const edit = { kind: 'part-take', name: `Use a range of ${name}`, part: part.id, take: id, range } as const;
    this.changes.make(edit, 'take');
  }

  protected compare(): void {
    toggleStrip(this.panels, BEST_TAKES);
  }

  protected alone(): void {
    const part = this.part();
    if (!part) return;
    const name = `Keep ${part.takes?.chosen.name ?? 'the take'}, delete the others`;
    this.changes.make({ kind: 'part-one-take', name, part: part.id, takes: null }, 'take');
  }
}
