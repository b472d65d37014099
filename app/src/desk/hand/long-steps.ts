import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  carryOut,
  doEditPieces,
  isProblem,
  LONG_STEP,
  notesIn,
  redoing,
  undoing,
  type Deed,
  type EditProblem,
  type History,
} from '@early-sparrow/core/edit';
import { atOnce, type Pieces } from '@early-sparrow/core/maths';
import type { Shaped } from '@early-sparrow/core/shape';
import { followedBy } from '@early-sparrow/core/song';
import { factsPieces, reportPieces } from '@early-sparrow/core/treatment';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature, placeOf, type Ready } from '../../state/desk.feature';
import { pictureOf } from './picture';
import { Turns } from './turns';

/** Is told why a change was refused (null where it was made, undefined where there was none to make), and its name. */
type Told = (refused?: EditProblem | null, name?: string) => void;

/**
 * Steps of very many notes. What the store and the picture will ask for (the song after it, its corrected notes, the facts
 * about them) is worked out before, in turns with the page. Then the step itself takes no time.
 */
@Injectable()
export class LongSteps {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly turns = inject(Turns);
  private readonly state = this.store.selectSignal(deskFeature.selectDeskState);

  /**
   * Makes a change one step, as {@link Changes.make} does; of very many notes later, in turns with the page.
   * @param count of notes @param shape works out the change: null for none @param how as there
   */
  make(count: number, shape: Pieces<Shaped>, how: string, then: Told): void {
    if (count >= LONG_STEP) void this.turns.do(this.making(shape, how, then));
    else this.told(atOnce(shape), how, then);
  }

  undo(): void {
    this.go('undo');
  }

  redo(): void {
    this.go('redo');
  }

  private go(act: 'undo' | 'redo'): void {
    const { history, role } = this.state();
    const deed = history && (act === 'undo' ? undoing(history) : redoing(history));
    if (!deed || role === 'reader' || notesIn(deed.edit) < LONG_STEP) this.store.dispatch(DeskActions[act]());
    else void this.turns.do(this.going(act, deed, history));
  }

  private *going(act: 'undo' | 'redo', deed: Deed, from: History): Pieces<() => void> {
    const to = carryOut(from, deed, placeOf(this.state()));
    if (isProblem(to)) return () => this.store.dispatch(DeskActions[act]());
    yield* this.looking(to);
    return () => this.store.dispatch(DeskActions.stepReady({ act, ready: { from, to } }));
  }

  private *making(shape: Pieces<Shaped>, how: string, then: Told): Pieces<() => void> {
    const state = this.state();
    const from = state.history;
    const shaped = yield* shape;
    if (!shaped || !from || isProblem(shaped)) return () => this.told(shaped, how, then);
    const edit = this.changes.step(shaped, how);
    yield;
    const to = yield* doEditPieces(from, edit, placeOf(state));
    let ready: Ready | undefined;
    if (!isProblem(to)) {
      ready = { from, to };
      yield* this.looking(to);
    }
    return () => this.told(edit, how, then, ready);
  }

  private told(shaped: Shaped, how: string, then: Told, ready?: Ready): void {
    if (!shaped) then();
    else then(this.changes.make(shaped, how, {}, ready), isProblem(shaped) ? '' : shaped.name);
  }

  /** What the picture of the current track will be made from. */
  private *looking({ song: plain }: History): Pieces<void> {
    const { follower, trackId } = this.state();
    const song = follower ? followedBy(plain, follower) : plain;
    for (const part of song.tracks.find((t) => t.id === trackId)?.parts ?? []) {
      yield;
      yield* factsPieces(part, song);
      pictureOf(part, song);
      yield;
      yield* reportPieces(part, song);
    }
  }
}
