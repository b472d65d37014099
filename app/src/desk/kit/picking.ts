import { Injectable, signal } from '@angular/core';

/** What is selected beside the notes, such as points of a lane: commands for what is selected go to it. */
export interface Picked {
  erase(): void;
  /** Selects all that is like it. */
  all(): void;
  /** @param ticks later @param rows up; a point's value goes up by a step */
  nudge(ticks: number, rows: number): void;
  /** Selects none of it. */
  drop(): void;
}

/** Whether something else than notes is selected. Notes and others are never selected together. */
@Injectable()
export class Picking {
  readonly now = signal<Picked | null>(null);
}
