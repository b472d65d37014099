import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { DeskActions, deskFeature } from '../../state/desk.feature';
import { Viewport } from '../kit/viewport';

/** The parts of the current track, one after the other. */
@Injectable()
export class Parts {
  private readonly store = inject(Store);
  private readonly view = inject(Viewport);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly part = this.store.selectSignal(deskFeature.selectPart);

  /** Takes the part so many further on in hand, and shows its beginning; at the ends it stays. */
  step(by: number): void {
    const track = this.track();
    const part = this.part();
    if (!track || !part) return;
    const next = track.parts.at(Math.max(0, Math.min(track.parts.length - 1, track.parts.indexOf(part) + by)));
    if (!next || next === part) return;
    this.store.dispatch(DeskActions.selectTrack({ trackId: track.id, partId: next.id }));
    this.view.scrollTo(next.start - 12 / this.view.scale());
  }
}
