import { createActionGroup, createFeature, createReducer, createSelector, emptyProps, on, props } from '@ngrx/store';
import {
  applyEdit,
  carryOut,
  doEdit,
  isProblem,
  redoing,
  undoing,
  type Deed,
  type Edit,
  type EditProblem,
  type History,
} from '@early-sparrow/core/edit';
import { noteCount, type Part, type Song, type Track } from '@early-sparrow/core/song';
import type { WriterState } from '../storage/song-writer';

/** Which of the two a person hears and sees as the notes. */
export type Compare = 'played' | 'corrected';

/** Whether this tab writes the song, or reads what another one writes. */
export type Role = 'writer' | 'reader';

export interface DeskState {
  readonly songId: string | null;
  readonly history: History | null;
  /** Why the song that was asked for cannot be shown; null when it can. */
  readonly problem: string | null;
  readonly role: Role;
  /** The last thing that was done here, for the journal. */
  readonly deed: Deed | null;
  /** Why the last edit was not done; null where it was. */
  readonly refused: EditProblem | null;
  /** A change that is being tried. Only the picture and the ear get it: no edit, file or store ever starts from it. */
  readonly preview: Edit | null;
  readonly trackId: string | null;
  /** The part at hand; null for the track's first. */
  readonly partId: string | null;
  /** Further tracks that a change of the treatment is for. */
  readonly also: readonly string[];
  /** Own settings that the panel is about, by id; null for the part's treatment. */
  readonly setId: string | null;
  /** Selected notes by id. */
  readonly selection: readonly number[];
  readonly compare: Compare;
  /** Counts what is computed anew, since an answer came that was not there before. */
  readonly anew: number;
  /** Steps that are not written yet, and what stands in their way. */
  readonly writing: WriterState;
  /** Steps of the journal that could not be read, in words; null where all could. */
  readonly damage: string | null;
}

const WRITTEN: WriterState = { unsaved: 0, trouble: null };

const initial: DeskState = {
  songId: null,
  history: null,
  problem: null,
  role: 'writer',
  deed: null,
  refused: null,
  preview: null,
  trackId: null,
  partId: null,
  also: [],
  setId: null,
  selection: [],
  compare: 'corrected',
  anew: 0,
  writing: WRITTEN,
  damage: null,
};

/** Everything that can happen to the open song. */
export const DeskActions = createActionGroup({
  source: 'Desk',
  events: {
    /** A song is asked for; effects open it. */
    Open: props<{ songId: string }>(),
    Opened: props<{ songId: string; history: History; role?: Role; damage?: string | null }>(),
    'Open Failed': props<{ songId: string; problem: string }>(),
    Close: emptyProps(),
    /** Another tab did something to the song that is read here. */
    Followed: props<{ history: History }>(),
    /** This tab wants to write, or has to let another one. */
    'Take Over': emptyProps(),
    'Role Changed': props<{ role: Role }>(),
    Writing: props<{ state: WriterState }>(),
    /** The song is to be kept again, after it was deleted elsewhere. */
    'Keep Again': emptyProps(),
    /** The song as it is here is to be kept as one of its own. */
    'Keep Copy': emptyProps(),
    'Damage Dealt With': emptyProps(),
    Edit: props<{ edit: Edit }>(),
    Preview: props<{ edit: Edit | null }>(),
    Undo: emptyProps(),
    Redo: emptyProps(),
    'Select Track': props<{ trackId: string; partId?: string }>(),
    /** Adds a track to those that a change is for, or takes it out. */
    'Toggle Track': props<{ trackId: string }>(),
    'Select Notes': props<{ ids: readonly number[] }>(),
    'Select Set': props<{ setId: string | null }>(),
    Compare: props<{ which: Compare }>(),
    /** What is seen and heard of the song is to be computed anew: an answer came from a worker. */
    'Computed Anew': emptyProps(),
  },
});

/** Why nothing can be done here now. */
const READING: EditProblem = {
  problem: 'This song is open in another tab, which writes it. Take it over to change it here.',
};

/** What is being tried ends with every step, and with every one that is refused. */
function done(state: DeskState, deed: Deed | null, history: History | EditProblem): DeskState {
  if (isProblem(history)) return { ...untried(state), refused: history };
  return { ...state, history, deed, refused: null, preview: null };
}

function step(state: DeskState, deed: Deed | null): DeskState {
  if (!state.history || !deed) return untried(state);
  return done(state, deed, state.role === 'reader' ? { ...READING } : carryOut(state.history, deed));
}

const untried = (state: DeskState): DeskState => (state.preview ? { ...state, preview: null } : state);

export const deskFeature = createFeature({
  name: 'desk',
  reducer: createReducer(
    initial,
    on(DeskActions.open, (): DeskState => initial),
    on(DeskActions.opened, (_, { songId, history, role, damage }): DeskState => ({
      ...initial,
      songId,
      history,
      role: role ?? 'writer',
      damage: damage ?? null,
      trackId: tracksWithNotes(history.song)[0]?.id ?? null,
    })),
    on(DeskActions.openFailed, (_, { problem }): DeskState => ({ ...initial, problem })),
    on(DeskActions.close, (): DeskState => initial),
    on(DeskActions.followed, (state, { history }): DeskState => ({ ...state, history, preview: null })),
    on(DeskActions.roleChanged, (state, { role }): DeskState => ({ ...state, role, preview: null })),
    on(DeskActions.writing, (state, { state: writing }): DeskState => ({ ...state, writing })),
    on(DeskActions.damageDealtWith, (state): DeskState => ({ ...state, damage: null })),
    on(DeskActions.edit, (state, { edit }) => {
      if (!state.history) return state;
      const reading = state.role === 'reader';
      return done(state, { act: 'do', edit }, reading ? { ...READING } : doEdit(state.history, edit));
    }),
    on(DeskActions.preview, (state, { edit }): DeskState => (edit ? { ...state, preview: edit } : untried(state))),
    on(DeskActions.undo, (state) => step(state, state.history && undoing(state.history))),
    on(DeskActions.redo, (state) => step(state, state.history && redoing(state.history))),
    on(DeskActions.selectTrack, (state, { trackId, partId }): DeskState => ({
      ...state,
      trackId,
      partId: partId ?? null,
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
    on(DeskActions.computedAnew, (state): DeskState => ({ ...state, anew: state.anew + 1 })),
  ),
  extraSelectors: ({ selectHistory, selectPreview, selectTrackId, selectPartId, selectWriting, selectAnew }) => {
    /** The song as it is: what edits start from and files are written from. */
    const selectSong = createSelector(selectHistory, selectAnew, (history, anew) => {
      const song = history?.song ?? null;
      // The same song, but another object: whoever shows it asks again.
      return song && anew > 0 ? { ...song } : song;
    });
    /** The song as it is shown and heard, with what is being tried; what does not fit is not shown. */
    const selectShownSong = createSelector(selectSong, selectPreview, (song, preview) => {
      const tried = song && preview ? applyEdit(song, preview) : null;
      return tried && !isProblem(tried) ? tried.song : song;
    });
    const byId = (tracks: readonly Track[], id: string | null) => tracks.find((t) => t.id === id) ?? null;
    const partAt = (track: Track | null, id: string | null): Part | null =>
      track?.parts.find((p) => p.id === id) ?? track?.parts.find((p) => p.notes.length > 0) ?? null;
    const selectTracks = createSelector(selectSong, (song) => (song ? tracksWithNotes(song) : []));
    const selectTrack = createSelector(selectTracks, selectTrackId, byId);
    const selectPart = createSelector(selectTrack, selectPartId, partAt);
    const selectShownTracks = createSelector(selectShownSong, (song) => (song ? tracksWithNotes(song) : []));
    const selectShownTrack = createSelector(selectShownTracks, selectTrackId, byId);
    const selectShownPart = createSelector(selectShownTrack, selectPart, (track, part) =>
      partAt(track, part?.id ?? null),
    );
    /** What undo and redo would do, in words; null where there is nothing. */
    const selectUndoName = createSelector(selectHistory, (h) => h?.undo.at(-1)?.name ?? null);
    const selectRedoName = createSelector(selectHistory, (h) => h?.redo.at(-1)?.name ?? null);
    const selectUnsaved = createSelector(selectWriting, (w) => w.unsaved);
    return {
      selectSong,
      selectShownSong,
      selectTracks,
      selectShownTracks,
      selectTrack,
      selectShownTrack,
      selectPart,
      selectShownPart,
      selectUndoName,
      selectRedoName,
      selectUnsaved,
    };
  },
});

function tracksWithNotes(song: Song): readonly Track[] {
  return song.tracks.filter((t) => noteCount(t) > 0);
}
