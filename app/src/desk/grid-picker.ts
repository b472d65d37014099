import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButtonToggleModule } from '@angular/material/button-toggle';
import { GRID_VALUES, stepName, TRIPLET, type Grid, type GridShape, type GridValue } from '@early-sparrow/core/grid';
import { NoteSymbol } from './note-symbol';

const SHAPES: readonly { name: string; shape: GridShape }[] = [
  { name: 'straight', shape: 'straight' },
  { name: 'triplet', shape: TRIPLET },
  { name: 'dotted', shape: 'dotted' },
];

/** A grid by its note: value and shape as buttons. */
@Component({
  selector: 'es-grid-picker',
  imports: [MatButtonToggleModule, NoteSymbol],
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
      (change)="picked.emit({ shape: shapeOf($event.value) })"
    >
      @for (s of shapes; track s.name) {
        <mat-button-toggle [value]="s.name">{{ s.name }}</mat-button-toggle>
      }
    </mat-button-toggle-group>
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
      --mat-button-toggle-selected-state-background-color: var(--action);
      --mat-button-toggle-selected-state-text-color: var(--on-action);
      --mat-button-toggle-background-color: var(--paper);
      --mat-button-toggle-divider-color: var(--line);
      --mat-button-toggle-height: 36px;
      --mat-button-toggle-shape: 6px;
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
    .fraction {
      font-size: 11px;
    }
  `,
})
export class GridPicker {
  readonly grid = input.required<Grid>();
  readonly picked = output<Partial<Pick<Grid, 'value' | 'shape'>>>();
  protected readonly values = GRID_VALUES;
  protected readonly shapes = SHAPES;

  protected name(value: GridValue): string {
    return stepName({ value, shape: 'straight' });
  }

  protected shapeName(): string {
    const { shape } = this.grid();
    return typeof shape === 'string' ? shape : shape.n === 3 && shape.m === 2 ? 'triplet' : '';
  }

  protected shapeOf(name: string): GridShape {
    return SHAPES.find((s) => s.name === name)?.shape ?? 'straight';
  }
}
