import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { formatGrid, isSwung, type Grid } from '@early-sparrow/core/grid';
import type { Quantize } from '@early-sparrow/core/song';
import { Amount } from './amount';
import { GridPicker } from './grid-picker';
import { StageRow } from './stage-row';
import { Treating } from './treating';
import { ValueButton } from './value-button';

type Open = 'grid' | 'strength' | 'swing' | 'tolerance' | null;

/** "Put starts on 1/16 lines, 80 % of the way. Leave what is within 6 ms." */
@Component({
  selector: 'es-quantize-stage',
  imports: [StageRow, ValueButton, Amount, GridPicker],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './quantize-stage.html',
})
export class QuantizeStage {
  protected readonly treating = inject(Treating);
  protected readonly quantize = computed(() => this.treating.treatment()!.quantize);
  protected readonly open = signal<Open>(null);
  protected readonly gridText = computed(() => formatGrid({ ...this.quantize().grid, swing: 0.5 }));
  protected readonly swung = computed(() => isSwung(this.quantize().grid));
  protected readonly canSwing = computed(() => typeof this.quantize().grid.shape === 'string');
  protected readonly percent = computed(() => Math.round(this.quantize().strength * 100));
  protected readonly swingPercent = computed(() => Math.round(this.quantize().grid.swing * 1000) / 10);

  /** What the strength means for the typical chord, in ms. */
  protected readonly strengthText = computed(() => {
    const move = this.treating.report()?.typicalMoveMs ?? 0;
    return move > 0 ? `${this.percent()} % · moves ${move.toFixed(1)} ms` : `${this.percent()} %`;
  });
  protected readonly swingText = computed(() => {
    const { swing } = this.quantize().grid;
    const triplet = Math.abs(swing - 2 / 3) < 0.004 ? ' · triplet' : '';
    return `${this.swingPercent()} % · ${(swing / (1 - swing)).toFixed(2)} : 1${triplet}`;
  });

  protected show(which: Open): void {
    this.open.set(this.open() === which ? null : which);
  }

  protected set(name: string, change: Partial<Quantize>, live = false): void {
    // Touching a stage's value switches the stage on: nobody sets what should not be heard.
    const edit = { quantize: { on: true, ...change } };
    if (live) this.treating.try(name, edit);
    else this.treating.commit(name, edit);
  }

  protected setGrid(change: Partial<Grid>, live = false): void {
    const grid = { ...this.quantize().grid, ...change };
    if (live) {
      // Swing moves the lines; that alone switches nothing on.
      this.treating.try('Swing', { quantize: { grid } });
      return;
    }
    const name = change.swing === undefined ? `Quantize to ${formatGrid(grid)}` : 'Swing';
    if (change.swing === undefined) this.set(name, { grid });
    else this.treating.commit(name, { quantize: { grid } });
  }
}
