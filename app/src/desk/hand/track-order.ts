import { DestroyRef, inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { orderTracks } from '@early-sparrow/core/edit';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';
import { takingBack } from '../kit/taking-back';

/** The order of the tracks as it is changed by dragging, in the list and beside the song view. */
@Injectable()
export class TrackOrder {
  private readonly changes = inject(Changes);
  private readonly store = inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);

  private dragging = false;
  private left = false;

  constructor() {
    takingBack(
      inject(DestroyRef),
      () => this.dragging,
      () => {
        this.left = true;
        this.dragging = false;
      },
    );
  }

  /** A track is being dragged: Escape leaves all where they are. */
  begin(): void {
    this.dragging = true;
    this.left = false;
  }

  /** Puts the track at one place of the list at another. */
  put(from: number, to: number): void {
    this.dragging = false;
    const song = this.song();
    const listed = this.tracks().map((t) => t.id);
    if (!song || from === to || this.left) return;
    const [id] = listed.splice(from, 1);
    listed.splice(to, 0, id);
    const edit = orderTracks(song, listed, id);
    if (edit) this.changes.make(edit, 'track');
  }
}
