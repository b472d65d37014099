import { computed, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { MARK, markEdit, wayTo, type Step } from '@early-sparrow/core/edit';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';

/** A place in what was done to the song. */
export interface Stop {
  /** Its place among all stops, which it keeps while the user goes to and fro. */
  readonly index: number;
  /** Steps from here: back is negative, 0 is the song as it is. */
  readonly by: number;
  /** What was done last before it; what the song began with for the first. */
  readonly name: string;
  /** When, in ms since 1970; null for what was made before times were kept. */
  readonly at: number | null;
  readonly mark: boolean;
}

/** Goes through what was done to the song, looks at it as it was, and marks places in it. */
@Injectable()
export class Travelling {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly history = this.store.selectSignal(deskFeature.selectHistory);

  /** From the song as it was opened first, or as far back as it is known, to what was undone last. */
  readonly stops = computed((): readonly Stop[] => {
    const history = this.history();
    if (!history) return [];
    const { undo, redo } = history;
    const here = undo.length;
    return [
      { index: 0, by: -here, name: 'The beginning', at: null, mark: false },
      ...[...undo, ...[...redo].reverse()].map((step, i) => stopOf(step, i + 1, here)),
    ];
  });

  /** Goes to a stop: nothing is lost, what lies behind it can be gone to again. */
  go(by: number): void {
    this.endLooking();
    for (let n = 0; n < Math.abs(by); n++) this.store.dispatch(by < 0 ? DeskActions.undo() : DeskActions.redo());
  }

  /** Shows and sounds the song as it is at a stop, until {@link endLooking}. */
  look(by: number): void {
    const history = this.history();
    this.store.dispatch(DeskActions.preview({ edit: history && wayTo(history, by) }));
  }

  endLooking(): void {
    this.store.dispatch(DeskActions.preview({ edit: null }));
  }

  /** @returns whether the song was marked */
  mark(name: string): boolean {
    return this.changes.make(markEdit(name), MARK) === null;
  }
}

function stopOf({ edit }: Step, index: number, here: number): Stop {
  return { index, by: index - here, name: edit.name, at: edit.at ?? null, mark: edit.how === MARK };
}
