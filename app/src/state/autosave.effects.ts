import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, debounceTime, distinctUntilChanged, filter, map, withLatestFrom } from 'rxjs';
import type { Step } from '../storage/database';
import { SongStore } from '../storage/song-store';
import { DeskActions, deskFeature } from './desk.feature';

/** The list is told of a change once nothing more has changed for so many ms. */
const IDLE_MS = 700;

/** Writes every step into the song's journal as soon as it is done, one after the other. */
@Injectable()
export class AutosaveEffects {
  private readonly actions = inject(Actions);
  private readonly store = inject(Store);
  private readonly songs = inject(SongStore);

  readonly save = createEffect(() =>
    this.actions.pipe(
      ofType(DeskActions.edit, DeskActions.undo, DeskActions.redo),
      withLatestFrom(this.store.select(deskFeature.selectDeskState)),
      filter(([, state]) => state.unsaved > 0),
      concatMap(async ([action, state]) => {
        const step: Step =
          action.type === DeskActions.edit.type
            ? { type: 'do', edit: action.edit }
            : { type: action.type === DeskActions.undo.type ? 'undo' : 'redo' };
        if (state.songId && state.history) await this.songs.append(state.songId, step, state.history.song);
      }),
      map(() => DeskActions.saved()),
    ),
  );

  /** Keeps the list of songs up to date, once nothing has changed for a moment and when the song is left. */
  readonly describe = createEffect(
    () =>
      this.store.select(deskFeature.selectDeskState).pipe(
        map(({ songId, history }) => ({ songId, song: history?.song })),
        distinctUntilChanged((a, b) => a.songId === b.songId && a.song === b.song),
        debounceTime(IDLE_MS),
        concatMap(async ({ songId, song }) => {
          if (songId && song) await this.songs.describe(songId, song);
        }),
      ),
    { dispatch: false },
  );
}
