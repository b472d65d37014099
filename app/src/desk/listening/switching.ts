import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { DeskActions, deskFeature } from '../../state/desk.feature';

/** The switch between as played and corrected. */
@Injectable()
export class Switching {
  private readonly store = inject(Store);
  private readonly compare = this.store.selectSignal(deskFeature.selectCompare);

  toggle(): void {
    this.store.dispatch(DeskActions.compare({ which: this.compare() === 'played' ? 'corrected' : 'played' }));
  }
}
