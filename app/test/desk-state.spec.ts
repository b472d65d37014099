import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import fc from 'fast-check';
import { EDIT_KINDS, isProblem, startHistory, undo, type History } from '@early-sparrow/core/edit';
import type { Song } from '@early-sparrow/core/song';
import { MAKE, twoTracks } from '../../core/test/make-edits';
import { note, song } from '../../core/test/build';
import { Changes } from '../src/state/changes';
import { DeskActions, deskFeature, shownTracks, type DeskState } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

describe('the desk’s place in a song', () => {
  let store: Store;
  let changes: Changes;
  const state = (): DeskState => store.selectSignal(deskFeature.selectDeskState)();
  const current = (): Song => state().history!.song;
  const open = (s: Song, role: 'writer' | 'reader' = 'writer') =>
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(s), role, damage: null }));

  beforeEach(() => {
    TestBed.configureTestingModule({ providers: [provideDeskStore()] });
    store = TestBed.inject(Store);
    changes = TestBed.inject(Changes);
  });

  it('is always one that is there, whatever edit, undo, redo or other tab', () => {
    const acts = [...EDIT_KINDS, 'undo', 'redo', 'follow', 'track', 'notes', 'set', 'also'] as const;
    const anyStep = fc.record({
      act: fc.constantFrom(...acts),
      numbers: fc.array(fc.nat(), { minLength: 8, maxLength: 8 }),
    });
    const go = ({ act, numbers }: { act: (typeof acts)[number]; numbers: number[] }) => {
      let k = 0;
      const n = (below: number) => (below > 0 ? numbers[k++ % numbers.length] % below : 0);
      const { tracks } = current();
      const track = tracks[n(tracks.length)] as Song['tracks'][number] | undefined;
      const part = track?.parts[n(track.parts.length)];
      if (act === 'undo') store.dispatch(DeskActions.undo());
      else if (act === 'redo') store.dispatch(DeskActions.redo());
      else if (act === 'follow') {
        const history: History = n(2) > 0 ? undo(state().history!) : startHistory(twoTracks());
        store.dispatch(DeskActions.followed({ history }));
      } else if (act === 'track' && track) {
        store.dispatch(DeskActions.selectTrack({ trackId: track.id, partId: part?.id }));
      } else if (act === 'notes') {
        const notes = store.selectSignal(deskFeature.selectPart)()?.notes ?? [];
        store.dispatch(DeskActions.selectNotes({ ids: notes.filter(() => n(2) > 0).map((x) => x.id) }));
      } else if (act === 'set') {
        const sets = store.selectSignal(deskFeature.selectPart)()?.sets ?? [];
        store.dispatch(DeskActions.selectSet({ setId: sets.at(0)?.id ?? null }));
      } else if (act === 'also' && track) store.dispatch(DeskActions.toggleTrack({ trackId: track.id }));
      else if (act in MAKE) {
        const edit = MAKE[act as keyof typeof MAKE](current(), n);
        if (edit) changes.make(edit, 'command');
      }
    };
    fc.assert(
      fc.property(fc.array(anyStep, { maxLength: 30 }), (steps) => {
        open(twoTracks());
        for (const step of steps) {
          go(step);
          const { trackId, partId, setId, selection, also } = state();
          const { tracks } = current();
          const track = tracks.find((t) => t.id === trackId);
          expect(trackId === null ? shownTracks(current()) : [track]).toEqual(
            trackId === null ? [] : [expect.anything()],
          );
          const part = store.selectSignal(deskFeature.selectPart)();
          if (partId !== null) expect(part?.id).toBe(partId);
          if (track && track.parts.length > 0) expect(track.parts).toContain(part);
          if (setId !== null) expect(part?.sets.map((s) => s.id)).toContain(setId);
          // A selection can reach over the parts of its track.
          const own = tracks.find((t) => t.id === trackId)?.parts ?? [];
          const ids = new Set(own.flatMap((p) => p.notes.map((x) => x.id)));
          expect(selection.filter((id) => !ids.has(id))).toEqual([]);
          for (const id of also) expect(tracks.some((t) => t.id === id) && id !== trackId).toBe(true);
        }
      }),
      { numRuns: 200 },
    );
  });

  it('goes with a change, and undo and redo bring it back', () => {
    open(twoTracks());
    store.dispatch(DeskActions.selectTrack({ trackId: 't', partId: 'p' }));
    store.dispatch(DeskActions.selectNotes({ ids: [0, 1] }));
    const [first] = current().tracks[0].parts;
    const edit = { kind: 'notes', name: 'x', part: 'p6', remove: [], add: [note(30, 8000)] } as const;
    expect(changes.make(edit, 'draw', { part: 'p6', selection: [30] })).toBeNull();
    expect(state()).toMatchObject({ trackId: 't', partId: 'p6', selection: [30] });
    store.dispatch(DeskActions.undo());
    expect(state()).toMatchObject({ trackId: 't', partId: 'p', selection: [0, 1] });
    expect(current().tracks[0].parts[0]).toBe(first);
    store.dispatch(DeskActions.redo());
    expect(state()).toMatchObject({ partId: 'p6', selection: [30] });
  });

  it('stays on the track before where the track of a recording is undone', () => {
    open(song([note(0, 100)]));
    const track = { ...twoTracks().tracks[1], id: 't40' };
    const add = { kind: 'tracks', name: 'Record', remove: [], add: [{ at: 1, track }] } as const;
    expect(changes.make(add, 'record 1', { track: 't40', part: 'p7', selection: [] })).toBeNull();
    expect(state().trackId).toBe('t40');
    store.dispatch(DeskActions.undo());
    expect(state().trackId).toBe('t');
    expect(store.selectSignal(deskFeature.selectTrack)()?.id).toBe('t');
  });

  it('shows a track whose notes are all erased: it can be drawn into, and undone', () => {
    open(song([note(0, 100)]));
    changes.make({ kind: 'notes', name: 'Erase', part: 'p', remove: [0], add: [] }, 'command');
    expect(
      store
        .selectSignal(deskFeature.selectTracks)()
        .map((t) => t.id),
    ).toEqual(['t']);
    expect(store.selectSignal(deskFeature.selectPart)()?.notes).toEqual([]);
  });

  it('tells whoever changes the song what became of it', () => {
    open(song([note(0, 100)]), 'reader');
    const edit = { kind: 'song-name', name: 'x', to: 'New' } as const;
    expect(changes.make(edit, 'command')?.problem).toMatch(/another tab/);
    open(song([note(0, 100)]));
    expect(changes.make(edit, 'command')).toBeNull();
    expect(changes.make({ kind: 'part-on', name: 'x', part: 'gone', on: false }, 'command')?.problem).toMatch(
      /no part/,
    );
    expect(changes.make({ problem: 'It cannot be.' }, 'command')).toEqual({ problem: 'It cannot be.' });
    expect(state().refused).toEqual({ problem: 'It cannot be.' });
    const { how, at } = state().deed!.edit;
    expect(how).toBe('command');
    expect(at).toBeGreaterThan(1.7e12);
    expect(isProblem(state().history!.undo[0])).toBe(false);
  });

  it('of a key that is held is one step, of two drags two', () => {
    open(song([note(0, 100)]));
    const level = (to: number) =>
      ({ kind: 'mix', name: `Level ${to}`, track: 't', mute: false, solo: false, level: to, pan: 0 }) as const;
    for (let k = 1; k <= 9; k++) changes.as('nudge level', () => changes.make(level(k / 10), 'drag'));
    expect(state().history!.undo).toHaveLength(1);
    changes.make(level(0.05), 'drag');
    changes.make(level(0.02), 'drag');
    expect(state().history!.undo).toHaveLength(3);
  });
});
