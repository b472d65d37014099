import { inject, Injectable } from '@angular/core';
import { formatGrid, TRIPLET, type Grid, type GridValue } from '@early-sparrow/core/grid';
import { counted } from '../../common/format';
import { Said } from '../../common/said';
import { Selecting } from '../hand/selecting';
import { Treating } from '../hand/treating';
import { command, type Command } from '../kit/command';

const VALUES: readonly (readonly [string, GridValue, string])[] = [
  ['1', 1, 'whole'],
  ['2', 2, 'half'],
  ['4', 4, 'quarter'],
  ['8', 8, 'eighth'],
  ['6', 16, 'sixteenth'],
  ['3', 32, 'thirty-second'],
];

/** Note values on their own digits, wherever the layout has them. */
@Injectable()
export class GridKeys {
  private readonly treating = inject(Treating);
  private readonly selecting = inject(Selecting);
  private readonly said = inject(Said);

  commands(): Command[] {
    const isTriplet = (grid: Grid) => typeof grid.shape === 'object';
    return [
      ...VALUES.map(([key, value, name]) =>
        command('Grid', `Grid of ${name} notes`, [`Digit${key}`, key], () => this.grid(() => ({ value }))),
      ),
      command('Grid', 'Triplet or straight', ['t'], () =>
        this.grid((g) => ({ shape: isTriplet(g) ? 'straight' : TRIPLET, swing: 0.5 })),
      ),
      command('Grid', 'Dotted or straight', ['d'], () =>
        this.grid((g) => ({ shape: g.shape === 'dotted' ? 'straight' : 'dotted' })),
      ),
    ];
  }

  /** Grid keys speak to what the panel is about; with notes selected, or a groove left by it, that is said. */
  private grid(change: (grid: Grid) => Partial<Grid>): void {
    const quantize = this.treating.treatment()?.quantize;
    if (!quantize) return;
    const grid = { mix: null, ...change(quantize.grid) };
    const text = formatGrid({ ...quantize.grid, ...grid });
    this.treating.commit(`Quantize to ${text}`, { quantize: { on: true, groove: null, grid } });
    const selected = this.selecting.count();
    const left = quantize.groove ? ` The groove ${quantize.groove.groove.name} was switched off.` : '';
    const whom = this.treating.set() ? 'the notes with these own settings' : 'the whole part';
    const only = selected > 0 ? `, not only ${counted(selected, 'selected note')}. Q quantizes those` : '';
    if (left || only) this.said.say(`${text} for ${whom}${only}.${left}`);
  }
}
