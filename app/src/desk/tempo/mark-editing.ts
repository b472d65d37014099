import { inject, Injectable, signal } from '@angular/core';
import { Panels } from '../kit/panels';
import type { Mark } from './marks';

/** Name of the field in the ruler among the panels. */
export const MARK = 'mark';

/** What is edited in the ruler: a mark, or the place where a marker is to come; null for nothing. */
export type Edited = { readonly mark: Mark } | { readonly fresh: number };

/** A mark that is edited where it stands, and the place that a dragged one would come to. */
@Injectable()
export class MarkEditing {
  private readonly panels = inject(Panels);
  readonly edited = signal<Edited | null>(null);
  /** Ticks; null while none is dragged. */
  readonly ghost = signal<number | null>(null);

  open(what: Edited): void {
    this.edited.set(what);
    this.panels.open(MARK, () => this.edited.set(null));
  }

  close(): void {
    this.panels.close(MARK);
  }
}
