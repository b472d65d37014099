import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import {
  duplicateTrack,
  isProblem,
  mergeTracks,
  moveTrack,
  removeTracks,
  splitTrack,
  type Edit,
  type EditProblem,
} from '@early-sparrow/core/edit';
import { percussionName, voiceKind } from '@early-sparrow/core/sound';
import { pitchName } from '../../common/format';
import { Said } from '../../common/said';
import { Changes } from '../../state/changes';
import { deskFeature } from '../../state/desk.feature';

/** What can be done with whole tracks: the current one, or all that are chosen. Each is one step for undo. */
@Injectable()
export class TrackActs {
  private readonly store = inject(Store);
  private readonly changes = inject(Changes);
  private readonly said = inject(Said);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  private readonly track = this.store.selectSignal(deskFeature.selectTrack);
  private readonly tracks = this.store.selectSignal(deskFeature.selectTracks);
  private readonly also = this.store.selectSignal(deskFeature.selectAlso);

  duplicate(): void {
    const [song, track] = [this.song(), this.track()];
    if (!song || !track) return;
    const edit = duplicateTrack(song, track.id);
    if (isProblem(edit) || edit.kind !== 'tracks') this.make(edit);
    else this.make(edit, edit.add[0].track.id);
  }

  /** Puts the track a place further up or down in the list. */
  move(by: -1 | 1): void {
    const [song, track] = [this.song(), this.track()];
    if (!song || !track) return;
    const listed = this.tracks().map((t) => t.id);
    const edit = moveTrack(song, listed, track.id, by);
    if (edit) this.changes.make(edit, 'track');
    else this.said.say(`“${track.name}” is the ${by < 0 ? 'first' : 'last'} track already.`);
  }

  /** One track a channel, or one a drum or key. */
  split(by: 'channel' | 'key'): void {
    const [song, track] = [this.song(), this.track()];
    if (!song || !track) return;
    const drums = voiceKind(track) === 'drums';
    const nameOf = (value: number): string =>
      by === 'channel' ? `channel ${value + 1}` : drums ? percussionName(value) : pitchName(value);
    const edit = splitTrack(song, track.id, { by, nameOf });
    const first = isProblem(edit) || edit.kind !== 'tracks' ? null : edit.add[0].track.id;
    this.make(edit, first);
  }

  /** Puts the current track and those that are chosen with it together. */
  merge(): void {
    const [song, track] = [this.song(), this.track()];
    if (!song || !track) return;
    const ids = [track.id, ...this.also()];
    this.make(mergeTracks(song, ids), song.tracks.find((t) => ids.includes(t.id))?.id ?? null);
  }

  /** Deletes the current track and those that are chosen with it. */
  remove(): void {
    const [song, track] = [this.song(), this.track()];
    if (!song || !track) return;
    const edit = removeTracks(song, [track.id, ...this.also()]);
    if (edit && !this.changes.make(edit, 'track')) this.said.say(`${edit.name}. Undo brings it back.`);
  }

  /** @param goes id of the track that becomes the current one; null for the one that is */
  private make(edit: Edit | EditProblem, goes: string | null = null): void {
    this.changes.make(edit, 'track', goes === null ? {} : { track: goes, part: null, selection: [] });
  }
}
