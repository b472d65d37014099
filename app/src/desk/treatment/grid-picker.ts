import { ChangeDetectionStrategy, Component, computed, inject, input, output } from '@angular/core';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import {
  formatStep,
  GRID_VALUES,
  MOST_IN_TUPLET,
  parseGrid,
  stepName,
  TRIPLET,
  type Grid,
  type GridShape,
  type GridValue,
} from '@early-sparrow/core/grid';
import { numberProblem } from '../../common/format';
import { words, type Option } from '../../common/option';
import { Said } from '../../common/said';
import { NoteSymbol } from './note-symbol';
import { PickOne } from '../../common/pick-one';

const SHAPES: readonly { name: string; shape: GridShape }[] = [
  { name: 'straight', shape: 'straight' },
  { name: 'triplet', shape: TRIPLET },
  { name: 'dotted', shape: 'dotted' },
  { name: 'n : m', shape: { n: 5, m: 4 } },
];

/** Second sets of lines that people mix in. */
const MIXES: readonly Option[] = [
  { value: '', text: 'nothing' },
  ...words('1/4T', '1/8T', '1/16T', '1/8', '1/16', '1/32', '1/8.'),
];

/** A grid by its note: value and shape as buttons. */
@Component({
  selector: 'es-grid-picker',
  imports: [MatButtonToggleModule, NoteSymbol, PickOne],
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <mat-button-toggle-group
      aria-label="Note value"
      hideSingleSelectionIndicator
      [value]="grid().value"
      (change)="picked.emit({ value: $event.value })"
    >
      @for (value of values; track value) {
        <mat-button-toggle [value]="value" [aria-label]="name(value)" [title]="name(value)">
          <es-note-symbol [value]="value" /><span class="fraction number">{{ value === 1 ? '1' : '1/' + value }}</span>
        </mat-button-toggle>
      }
    </mat-button-toggle-group>
    <mat-button-toggle-group
      aria-label="Shape"
      hideSingleSelectionIndicator
      [value]="shapeName()"
      (change)="setShape($event.value)"
    >
      @for (s of shapes; track s.name) {
        <mat-button-toggle [value]="s.name">{{ s.name }}</mat-button-toggle>
      }
    </mat-button-toggle-group>
    @if (tuplet(); as t) {
      <p class="row">
        <input
          type="number"
          min="1"
          [max]="most"
          aria-label="Notes"
          [value]="t.n"
          (change)="setTuplet($event, t, 'n')"
        />
        notes in the time of
        <input
          type="number"
          min="1"
          [max]="most"
          aria-label="In the time of"
          [value]="t.m"
          (change)="setTuplet($event, t, 'm')"
        />
      </p>
    }
    <div class="row">
      Mixed with <es-pick-one label="Mixed with" [value]="mixText()" [options]="mixes" (picked)="mix($event)" />
    </div>
  `,
  styles: `
    :host {
      display: grid;
      gap: 8px;
      margin: 8px 0;
    }
    mat-button-toggle-group {
      display: grid;
      grid-auto-flow: column;
      grid-auto-columns: 1fr;
      --mat-button-toggle-height: 36px;
    }
    mat-button-toggle {
      font-size: 13px;
    }
    mat-button-toggle ::ng-deep .mat-button-toggle-label-content {
      display: grid;
      justify-items: center;
      padding: 0 2px;
      line-height: 1.2;
      min-height: 36px;
      align-content: center;
    }
    es-pick-one {
      flex: 1;
    }
    .row {
      display: flex;
      align-items: center;
      gap: 8px;
      margin: 0;
      font-size: 14px;
    }
    input {
      padding: 3px 5px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
      font: inherit;
      font-size: 14px;
    }
    input {
      width: 52px;
    }
    .fraction {
      font-size: 11px;
    }
  `,
})
export class GridPicker {
  private readonly said = inject(Said);
  readonly grid = input.required<Grid>();
  readonly picked = output<Partial<Pick<Grid, 'value' | 'shape' | 'mix' | 'swing'>>>();
  protected readonly values = GRID_VALUES;
  protected readonly shapes = SHAPES;
  protected readonly most = MOST_IN_TUPLET;

  protected name(value: GridValue): string {
    return stepName({ value, shape: 'straight' });
  }

  protected shapeName(): string {
    const { shape } = this.grid();
    return typeof shape === 'string' ? shape : shape.n === 3 && shape.m === 2 ? 'triplet' : 'n : m';
  }

  protected readonly mixes = MIXES;
  protected readonly mixText = computed(() => {
    const { mix } = this.grid();
    return mix ? formatStep(mix) : '';
  });
  /** The tuplet's numbers; null for other shapes and for the triplet, which has a button. */
  protected readonly tuplet = computed(() => {
    const { shape } = this.grid();
    return typeof shape === 'object' && this.shapeName() === 'n : m' ? shape : null;
  });

  /** A tuplet is not swung. */
  protected setShape(name: string): void {
    const shape = this.shapeOf(name);
    this.picked.emit(typeof shape === 'object' ? { shape, swing: 0.5 } : { shape });
  }

  protected setTuplet(event: Event, tuplet: { n: number; m: number }, which: 'n' | 'm'): void {
    const input = event.target as HTMLInputElement;
    const typed = Math.round(input.valueAsNumber);
    const fits = typed >= 1 && typed <= MOST_IN_TUPLET;
    if (!fits) this.said.say(numberProblem(1, MOST_IN_TUPLET));
    const value = fits ? typed : tuplet[which];
    input.value = String(value);
    if (value !== tuplet[which]) this.picked.emit({ shape: { ...tuplet, [which]: value } });
  }

  protected mix(text: string): void {
    const step = text ? parseGrid(text) : null;
    this.picked.emit({ mix: step && { value: step.value, shape: step.shape } });
  }

  protected shapeOf(name: string): GridShape {
    return SHAPES.find((s) => s.name === name)?.shape ?? 'straight';
  }
}
