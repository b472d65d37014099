import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import type { Track } from '@early-sparrow/core/song';
import { Changes } from '../../state/changes';
import { DeskActions, deskFeature } from '../../state/desk.feature';

/** What can be changed in the mix of a track. */
export type MixChange = Partial<Pick<Track, 'mute' | 'solo' | 'level'>>;

/** A track's place in the mix. */
@Injectable()
export class Mixing {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);

  /** @param live only heard while the level moves */
  set(of: Track, change: MixChange, live = false): void {
    // The track as it is, without what is being tried.
    const track = this.tracks().find((t) => t.id === of.id) ?? of;
    const { mute, solo, level } = track;
    const [what] = Object.keys(change);
    const name = `${what[0].toUpperCase()}${what.slice(1)} of ${track.name}`;
    const edit = { kind: 'mix', name, track: track.id, mute, solo, level, ...change } as const;
    if (live) this.store.dispatch(DeskActions.preview({ edit }));
    else this.changes.make(edit, what === 'level' ? 'nudge level' : 'mix');
  }
}
