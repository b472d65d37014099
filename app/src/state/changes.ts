import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { isProblem, type Edit, type EditProblem } from '@early-sparrow/core/edit';
import { DeskActions, deskFeature, type Goes, type Ready } from './desk.feature';

/** The one way to change the open song: whoever changes it learns what became of it. */
@Injectable({ providedIn: 'root' })
export class Changes {
  private readonly store = inject(Store);
  private readonly answer = this.store.selectSignal(deskFeature.selectAnswer);
  private asked = 0;
  private means: string | null = null;

  /**
   * Makes an edit one step, told by how and when it came about.
   * @param edit what to do, or why it could not be made: then that is told
   * @param how what the user did, such as `draw`; what begins with `nudge` goes on with such a step just before
   * @param goes where the desk goes with it: selection, track and part at hand
   * @param ready what comes of the edit as {@link step} makes it, where that was worked out beforehand
   * @returns null where it was accepted; else why not, which was told already
   */
  make(edit: Edit | EditProblem, how: string, goes?: Goes, ready?: Ready): EditProblem | null {
    const n = ++this.asked;
    if (isProblem(edit)) {
      this.store.dispatch(DeskActions.refuse({ problem: edit.problem }));
      return edit;
    }
    // What was worked out beforehand is a step already.
    this.store.dispatch(DeskActions.edit({ edit: ready ? edit : this.step(edit, how), goes, n, ready }));
    const answer = this.answer();
    // The store answers at once, unless a change is made from within another.
    if (answer?.n !== n) throw new Error('A change was made while another was on its way.');
    return answer.refused;
  }

  /** An edit as a step: it says how it came about, and when. */
  step(edit: Edit, how: string): Edit {
    const told = { how: this.means ?? how, at: Date.now() };
    // Some edits say with `at` where they act: when they came about is then said of the step around them.
    const step: Edit =
      'at' in edit && edit.kind !== 'several' ? { kind: 'several', name: edit.name, edits: [edit] } : edit;
    return { ...step, ...told };
  }

  /** Lets a control say how its change comes about, where another one makes it: a key that is held is one step. */
  as(how: string, change: () => void): void {
    this.means = how;
    try {
      change();
    } finally {
      this.means = null;
    }
  }
}
