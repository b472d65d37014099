import { ChangeDetectionStrategy, Component } from '@angular/core';

/** Over the length lane: its name. */
@Component({
  selector: 'es-length-head',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `<span>Length, in steps of the grid</span>`,
})
export class LengthHead {}
