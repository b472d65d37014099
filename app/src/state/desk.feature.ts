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
  type Place,
} from '@early-sparrow/core/edit';
import { followedBy, notesAt, type Follower, type Part, type Song, type Track } from '@early-sparrow/core/song';
import type { WriterState } from '../storage/song-writer';

/** Which of the two a person hears and sees as the notes. */
export type Compare = 'played' | 'corrected';

/** Whether this tab writes the song, or reads what another one writes. */
export type Role = 'writer' | 'reader';

/** Where the desk goes with an edit; what is left out stays as it is. */
export type Goes = Partial<Place>;

/** A history that was worked out beforehand, and the one that it was worked out from: any other makes it void. */
export interface Ready {
  readonly from: History;
  readonly to: History;
}

/** What became of the change of a number: null where it was accepted. */
export interface Answer {
  readonly n: number;
  readonly refused: EditProblem | null;
}

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
  /** The last answer to whoever asked for a change by number. */
  readonly answer: Answer | null;
  /** A change that is being tried. Only the picture and the ear get it: no edit, file or store ever starts from it. */
  readonly preview: Edit | null;
  readonly trackId: string | null;
  /** The current part; null for the track's first. */
  readonly partId: string | null;
  /** Further tracks that a change of the treatment is for. */
  readonly also: readonly string[];
  /** Own settings that the panel is about, by id; null for the part's treatment. */
  readonly setId: string | null;
  /** Selected notes by id. */
  readonly selection: readonly number[];
  readonly compare: Compare;
  /** Who finds the lines that follow a player: another one each time that more is known. */
  readonly follower: Follower | undefined;
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
  answer: null,
  preview: null,
  trackId: null,
  partId: null,
  also: [],
  setId: null,
  selection: [],
  compare: 'corrected',
  follower: undefined,
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
    /** A change; with a number where its maker wants to know what became of it. */
    Edit: props<{ edit: Edit; goes?: Goes; n?: number; ready?: Ready }>(),
    /** A change could not even be made: that is told. */
    Refuse: props<{ problem: string }>(),
    Preview: props<{ edit: Edit | null }>(),
    Undo: emptyProps(),
    Redo: emptyProps(),
    /** Undo or redo of very many notes, which was worked out beforehand. */
    'Step Ready': props<{ act: 'undo' | 'redo'; ready: Ready }>(),
    'Select Track': props<{ trackId: string; partId?: string }>(),
    /** Another part of the track becomes the current one; the selection stays. */
    'Select Part': props<{ partId: string }>(),
    /** Adds a track to those that a change is for, or takes it out. */
    'Toggle Track': props<{ trackId: string }>(),
    'Select Notes': props<{ ids: readonly number[] }>(),
    'Select Set': props<{ setId: string | null }>(),
    Compare: props<{ which: Compare }>(),
    /** Lines that follow a player are found by another follower: more is known now. */
    'Follow By': props<{ follower: Follower | undefined }>(),
  },
});

/** Why nothing can be done here now. */
const READING: EditProblem = {
  problem: 'This song is being edited in another tab. Choose “Edit here” to change it in this one.',
};

export const placeOf = ({ trackId, partId, setId, selection }: DeskState): Place => ({
  track: trackId,
  part: partId,
  set: setId,
  selection,
});

/** The desk at a place, as far as the song has it. What is being tried ends with every step. */
function at(state: DeskState, history: History, place: Goes = {}): DeskState {
  const { track, part, set, selection } = { ...placeOf(state), ...place };
  const moved = track !== state.trackId || part !== state.partId;
  return reconciled({
    ...state,
    history,
    trackId: track,
    partId: part,
    setId: set,
    selection,
    also: moved ? [] : state.also,
    preview: null,
  });
}

/**
 * The one place in which selection, own settings, current part and track are brought in line with the song: whatever
 * an edit, undo, redo or another tab did, they point at what is there.
 */
function reconciled(state: DeskState): DeskState {
  const { history, trackId, partId, setId, selection, also } = state;
  if (!history) return state;
  const { tracks } = history.song;
  const track = tracks.find((t) => t.id === trackId) ?? shownTracks(history.song).at(0) ?? null;
  const part = partOf(track, track?.id === trackId ? partId : null);
  const left = also.filter((id) => id !== track?.id && tracks.some((t) => t.id === id));
  return {
    ...state,
    trackId: track?.id ?? null,
    partId: part && part.id === partId ? partId : null,
    setId: part?.sets.some((s) => s.id === setId) ? setId : null,
    selection: inTrack(selection, track),
    also: left.length === also.length ? also : left,
  };
}

/** The ids that are in a track: a selection can reach over its parts. The same array where all are. */
function inTrack(ids: readonly number[], track: Track | null): readonly number[] {
  let count = 0;
  const parts = track?.parts ?? [];
  for (const { notes } of parts) count += count < ids.length ? notesAt(notes, ids).length : 0;
  if (count >= ids.length) return ids;
  const there = new Set(parts.flatMap((p) => p.notes.map((n) => n.id)));
  return ids.filter((id) => there.has(id));
}

function edited(state: DeskState, edit: Edit, ready?: Ready): History | EditProblem {
  if (!state.history) return { problem: 'No song is open.' };
  if (state.role === 'reader') return READING;
  return ready?.from === state.history ? ready.to : doEdit(state.history, edit, placeOf(state));
}

/** Undo and redo bring back where the user was then. */
function step(state: DeskState, act: 'undo' | 'redo', ready?: Ready): DeskState {
  const { history } = state;
  const deed = history && (act === 'undo' ? undoing(history) : redoing(history));
  if (!history || !deed) return untried(state);
  if (state.role === 'reader') return refuse(state, READING);
  const after = ready?.from === history ? ready.to : carryOut(history, deed, placeOf(state));
  if (isProblem(after)) return refuse(state, after);
  const place = (deed.act === 'undo' ? history.undo : history.redo).at(-1)?.place;
  return { ...at(state, after, place), deed, refused: null };
}

/** A problem of its own each time, so that the same one is told again. */
const refuse = (state: DeskState, { problem }: EditProblem): DeskState => ({
  ...untried(state),
  refused: { problem },
});

const untried = (state: DeskState): DeskState => (state.preview ? { ...state, preview: null } : state);

export const deskFeature = createFeature({
  name: 'desk',
  reducer: createReducer(
    initial,
    on(DeskActions.open, ({ follower }): DeskState => ({ ...initial, follower })),
    on(DeskActions.opened, ({ follower }, { songId, history, role, damage }): DeskState => ({
      ...initial,
      follower,
      songId,
      history,
      role: role ?? 'writer',
      damage: damage ?? null,
      trackId: shownTracks(history.song).at(0)?.id ?? null,
    })),
    on(DeskActions.openFailed, ({ follower }, { problem }): DeskState => ({ ...initial, follower, problem })),
    on(DeskActions.close, ({ follower }): DeskState => ({ ...initial, follower })),
    on(DeskActions.followed, (state, { history }): DeskState => at(state, history)),
    on(DeskActions.roleChanged, (state, { role }): DeskState => ({ ...state, role, preview: null })),
    on(DeskActions.writing, (state, { state: writing }): DeskState => ({ ...state, writing })),
    on(DeskActions.damageDealtWith, (state): DeskState => ({ ...state, damage: null })),
    on(DeskActions.edit, (state, { edit, goes, n, ready }): DeskState => {
      const history = edited(state, edit, ready);
      const after: DeskState = isProblem(history)
        ? refuse(state, history)
        : { ...at(state, history, goes), deed: { act: 'do', edit }, refused: null };
      return n === undefined ? after : { ...after, answer: { n, refused: after.refused } };
    }),
    on(DeskActions.refuse, (state, { problem }): DeskState => refuse(state, { problem })),
    on(DeskActions.preview, (state, { edit }): DeskState => (edit ? { ...state, preview: edit } : untried(state))),
    on(DeskActions.undo, (state) => step(state, 'undo')),
    on(DeskActions.redo, (state) => step(state, 'redo')),
    on(DeskActions.stepReady, (state, { act, ready }) => step(state, act, ready)),
    on(DeskActions.selectTrack, (state, { trackId, partId }): DeskState => ({
      ...state,
      trackId,
      partId: partId ?? null,
      also: [],
      setId: null,
      selection: [],
      preview: null,
    })),
    on(DeskActions.selectPart, (state, { partId }): DeskState => ({ ...state, partId, setId: null, preview: null })),
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
    on(DeskActions.followBy, (state, { follower }): DeskState => ({ ...state, follower })),
  ),
  extraSelectors: ({ selectHistory, selectPreview, selectTrackId, selectPartId, selectWriting, selectFollower }) => {
    /** The song as it is: what edits start from and files are written from. */
    const selectSong = createSelector(selectHistory, selectFollower, (history, follower) => {
      const song = history?.song ?? null;
      return song && follower ? followedBy(song, follower) : song;
    });
    /** The song as it is shown and heard, with what is being tried; what does not fit is not shown. */
    const selectShownSong = createSelector(selectSong, selectPreview, (song, preview) => {
      const tried = song && preview ? applyEdit(song, preview) : null;
      return tried && !isProblem(tried) ? tried.song : song;
    });
    const byId = (tracks: readonly Track[], id: string | null) => tracks.find((t) => t.id === id) ?? null;
    const selectTracks = createSelector(selectSong, (song) => (song ? shownTracks(song) : []));
    const selectTrack = createSelector(selectTracks, selectTrackId, byId);
    const selectPart = createSelector(selectTrack, selectPartId, partOf);
    const selectShownTracks = createSelector(selectShownSong, (song) => (song ? shownTracks(song) : []));
    const selectShownTrack = createSelector(selectShownTracks, selectTrackId, byId);
    const selectShownPart = createSelector(selectShownTrack, selectPart, (track, part) =>
      partOf(track, part?.id ?? null),
    );
    /** What undo and redo would do, in words; null where there is nothing. */
    const selectUndoName = createSelector(selectHistory, (h) => h?.undo.at(-1)?.edit.name ?? null);
    const selectRedoName = createSelector(selectHistory, (h) => h?.redo.at(-1)?.edit.name ?? null);
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

/**
 * The tracks that the desk lists: those with parts, and those that came about here, which can be drawn into. One of a file
 * without any, such as its tempo track, has nothing to look at.
 */
export function shownTracks(song: Song): readonly Track[] {
  return song.tracks.filter((t) => t.parts.length > 0 || !t.origin);
}

/** The current part in a track: the one that was chosen, else the first with notes, else the first. */
function partOf(track: Track | null, id: string | null): Part | null {
  const parts = track?.parts ?? [];
  return parts.find((p) => p.id === id) ?? parts.find((p) => p.notes.length > 0) ?? parts.at(0) ?? null;
}
