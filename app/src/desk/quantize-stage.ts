import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { formatGrid, isSwung, type Grid } from '@early-sparrow/core/grid';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import type { Limit, Quantize } from '@early-sparrow/core/song';
import { Amount } from './amount';
import { Choice } from './choice';
import { GridPicker } from './grid-picker';
import { Lifter } from './lifter';
import { Selecting } from './selecting';
import { StageRow } from './stage-row';
import { Treating } from './treating';
import { ValueButton } from './value-button';

type Open = 'grid' | 'more' | null;

/** "Put starts on 1/16 lines, 80 % of the way. Leave what is within 6 ms." */
@Component({
  selector: 'es-quantize-stage',
  imports: [StageRow, ValueButton, Amount, GridPicker, Choice],
  changeDetection: ChangeDetectionStrategy.OnPush,
  templateUrl: './quantize-stage.html',
  styles: `
    .field {
      display: grid;
      grid-template-columns: auto 1fr;
      gap: 10px;
      align-items: center;
    }
    select {
      min-width: 0;
      padding: 5px;
      border: 1px solid var(--line);
      border-radius: 6px;
      background: var(--paper);
      color: var(--ink);
      font: inherit;
      font-size: 14px;
    }
    .hint {
      margin: 4px 0 0;
      font-size: 13px;
      color: var(--soft);
    }
    .hint button {
      color: var(--action);
      padding: 2px 4px;
    }
  `,
})
export class QuantizeStage {
  protected readonly treating = inject(Treating);
  protected readonly selecting = inject(Selecting);
  protected readonly lifter = inject(Lifter);
  protected readonly others = computed(() =>
    (this.treating.song()?.tracks ?? []).filter((t) => t.parts.length > 0 && t.id !== this.treating.track()?.id),
  );
  protected readonly liftProblem = signal('');
  protected readonly grooves = BUILT_IN_GROOVES;
  protected readonly directions = [
    { value: 'early', text: 'early only' },
    { value: 'both', text: 'both' },
    { value: 'late', text: 'late only' },
  ];
  protected readonly choices = [
    { value: 'nearest', text: 'nearest line' },
    { value: 'follow', text: 'follow the player' },
  ];
  protected readonly times = ['1', '2', '3', '4'].map((value) => ({
    value,
    text: value === '1' ? 'once' : `${value} times`,
  }));
  protected readonly spread = computed(() => Math.round(this.quantize().spread * 100));
  protected readonly again = computed(() => (this.quantize().times > 1 ? `, ${this.quantize().times} times` : ''));
  protected readonly lifted = computed(() => {
    const name = this.quantize().groove?.groove.name;
    return name && !BUILT_IN_GROOVES.some((g) => g.groove.name === name) ? name : null;
  });
  protected readonly grooveAbout = computed(
    () => BUILT_IN_GROOVES.find((g) => g.groove.name === this.quantize().groove?.groove.name)?.about ?? null,
  );
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
    const swingOnly = change.swing !== undefined && change.shape === undefined;
    const name = !swingOnly ? `Quantize to ${formatGrid(grid)}` : 'Swing';
    if (!swingOnly) this.set(name, { grid });
    else this.treating.commit(name, { quantize: { grid } });
  }

  protected reach(percent: number, live: boolean): void {
    this.set('Reach', { reach: percent >= 100 ? null : { value: percent, unit: 'percent' } }, live);
  }

  protected limitText({ value, unit }: Limit): string {
    return unit === 'percent' ? `${value} %` : `${value} ${unit}`;
  }

  protected groove(name: string): void {
    const found = BUILT_IN_GROOVES.find((g) => g.groove.name === name)?.groove ?? null;
    this.set(found ? `Groove ${name}` : 'No groove', { groove: found && { groove: found, timing: 1, velocity: 0 } });
  }

  protected liftSwing(): void {
    const swing = this.lifter.swing();
    this.liftProblem.set(swing === null ? 'Too few on-beats and off-beats to measure a swing. Select more notes.' : '');
    if (swing !== null)
      this.treating.commit(`Lift swing ${(swing * 100).toFixed(1)} %`, {
        quantize: { grid: { ...this.quantize().grid, swing } },
      });
  }

  protected liftGroove(): void {
    const groove = this.lifter.groove();
    this.liftProblem.set(groove === null ? 'There are no notes to measure a groove from.' : '');
    if (groove) this.set(`Lift ${groove.name}`, { groove: { groove, timing: 1, velocity: 0 } });
  }
}
