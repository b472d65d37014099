import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import { apply, perform, redo, undo, type Edit, type History } from '@early-sparrow/core/edit';
import { noteCount, type Song, type Track } from '@early-sparrow/core/song';

/** Which of the two a person hears and sees as the notes. */
export type Compare = 'played' | 'corrected';

export interface DeskState {
  readonly songId: string | null;
  readonly history: History | null;
  /** A change that is being tried. Only the picture and the ear get it: no edit, file or store ever starts from it. */
  readonly preview: Edit | null;
  readonly trackId: string | null;
  /** Further tracks that a change of the treatment is for. */
  readonly also: readonly string[];
  /** Own settings that the panel is about, by id; null for the part's treatment. */
  readonly setId: string | null;
  /** Selected notes by id. */
  readonly selection: readonly number[];
  readonly compare: Compare;
  /** Steps that are not written yet. */
  readonly unsaved: number;
}

const initial: DeskState = {
  songId: null,
  history: null,
  preview: null,
  trackId: null,
  also: [],
  setId: null,
  selection: [],
  compare: 'corrected',
  unsaved: 0,
};

/** Everything that can happen to the open song. */
export const DeskActions = createActionGroup({
  source: 'Desk',
  events: {
    Opened: props<{ songId: string; history: History }>(),
    Closed: emptyProps(),
    Edit: props<{ edit: Edit }>(),
    Preview: props<{ edit: Edit | null }>(),
    Undo: emptyProps(),
    Redo: emptyProps(),
    'Select Track': props<{ trackId: string }>(),
    /** Adds a track to those that a change is for, or takes it out. */
    'Toggle Track': props<{ trackId: string }>(),
    'Select Notes': props<{ ids: readonly number[] }>(),
    'Select Set': props<{ setId: string | null }>(),
    Compare: props<{ which: Compare }>(),
    Saved: emptyProps(),
  },
});

/** What is being tried ends with every step that is done. */
const step = (state: DeskState, history: History): DeskState =>
  history === state.history ? untried(state) : { ...state, history, preview: null, unsaved: state.unsaved + 1 };
const untried = (state: DeskState): DeskState => (state.preview ? { ...state, preview: null } : state);

export const deskFeature = createFeature({
  name: 'desk',
  reducer: createReducer(
    initial,
    on(DeskActions.opened, (_, { songId, history }): DeskState => ({
      ...initial,
      songId,
      history,
      trackId: tracksWithNotes(history.song)[0]?.id ?? null,
    })),
    on(DeskActions.closed, (): DeskState => initial),
    on(DeskActions.edit, (state, { edit }) => (state.history ? step(state, perform(state.history, edit)) : state)),
    on(DeskActions.preview, (state, { edit }): DeskState => (edit ? { ...state, preview: edit } : untried(state))),
    on(DeskActions.undo, (state) => (state.history ? step(state, undo(state.history)) : state)),
    on(DeskActions.redo, (state) => (state.history ? step(state, redo(state.history)) : state)),
    on(DeskActions.selectTrack, (state, { trackId }): DeskState => ({
      ...state,
      trackId,
      also: [],
      setId: null,
      selection: [],
      preview: null,
    })),
    on(DeskActions.toggleTrack, (state, { trackId }): DeskState => {
      if (trackId === state.trackId) return state;
      const without = state.also.filter((id) => id !== trackId);
      return {
        ...state,
        also: without.length < state.also.length ? without : [...without, trackId],
        setId: null,
        preview: null,
      };
    }),
    on(DeskActions.selectNotes, (state, { ids }): DeskState => ({ ...state, selection: ids })),
    on(DeskActions.selectSet, (state, { setId }): DeskState => ({ ...state, setId, preview: null })),
    on(DeskActions.compare, (state, { which }): DeskState => ({ ...state, compare: which })),
    on(DeskActions.saved, (state): DeskState => ({ ...state, unsaved: Math.max(0, state.unsaved - 1) })),
  ),
  extraSelectors: ({ selectHistory, selectPreview, selectTrackId }) => {
    /** The song as it is: what edits start from and files are written from. */
    const selectSong = createSelector(selectHistory, (history) => history?.song ?? null);
    /** The song as it is shown and heard, with what is being tried. */
    const selectShownSong = createSelector(selectSong, selectPreview, (song, preview) =>
      song && preview ? apply(song, preview).song : song,
    );
    const byId = (tracks: readonly Track[], id: string | null) => tracks.find((t) => t.id === id) ?? null;
    const selectTracks = createSelector(selectSong, (song) => (song ? tracksWithNotes(song) : []));
    const selectTrack = createSelector(selectTracks, selectTrackId, byId);
    const selectShownTracks = createSelector(selectShownSong, (song) => (song ? tracksWithNotes(song) : []));
    const selectShownTrack = createSelector(selectShownTracks, selectTrackId, byId);
    /** What undo and redo would do, in words; null where there is nothing. */
    const selectUndoName = createSelector(selectHistory, (h) => h?.undo.at(-1)?.name ?? null);
    const selectRedoName = createSelector(selectHistory, (h) => h?.redo.at(-1)?.name ?? null);
    return {
      selectSong,
      selectShownSong,
      selectTracks,
      selectShownTracks,
      selectTrack,
      selectShownTrack,
      selectUndoName,
      selectRedoName,
    };
  },
});

function tracksWithNotes(song: Song): readonly Track[] {
  return song.tracks.filter((t) => noteCount(t) > 0);
}
