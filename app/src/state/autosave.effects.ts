import { inject, Injectable } from '@angular/core';
import { Actions, createEffect, ofType } from '@ngrx/effects';
import { Store } from '@ngrx/store';
import { concatMap, debounceTime, distinctUntilChanged, filter, map, scan, withLatestFrom } from 'rxjs';
import type { Song } from '@early-sparrow/core/song';
import type { Step } from '../storage/database';
import { SongStore } from '../storage/song-store';
import { DeskActions, deskFeature } from './desk.feature';

/** The list is told of a change once nothing more has changed for so many ms. */
const IDLE_MS = 700;

/** A song as it is, and as it was opened. */
interface Told {
  readonly songId: string | null;
  readonly song: Song | undefined;
  readonly opened: Song | undefined;
}

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
        // As it was opened the list knows it already.
        scan((told, { songId, song }) => ({ songId, song, opened: told.songId === songId ? told.opened : song }), {
          songId: null,
          song: undefined,
          opened: undefined,
        } as Told),
        concatMap(async ({ songId, song, opened }) => {
          if (songId && song && song !== opened) await this.songs.describe(songId, song);
        }),
      ),
    { dispatch: false },
  );
}
