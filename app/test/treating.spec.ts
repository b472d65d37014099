import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Part, Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, song } from '../../core/test/build';
import { BUILT_IN_GROOVES } from '@early-sparrow/core/groove';
import { Said } from '../src/common/said';
import { Commands } from '../src/desk/kit/commands';
import { Analyst } from '../src/desk/fits/analyst';
import { fitsRoom } from '../src/desk/fits/room';
import { filesRoom } from '../src/desk/files/room';
import { Following } from '../src/desk/hand/following';
import { handRoom } from '../src/desk/hand/room';
import { kit } from '../src/desk/kit/room';
import { listeningRoom } from '../src/desk/listening/room';
import { pictureRoom } from '../src/desk/picture/room';
import { recordingRoom } from '../src/desk/recording/room';
import { reportRoom } from '../src/desk/report/room';
import { tempoRoom } from '../src/desk/tempo/room';
import { treatmentRoom } from '../src/desk/treatment/room';
import { Panels } from '../src/desk/kit/panels';
import { ALL_PITCHES } from '../src/desk/kit/viewport';
import { Selecting } from '../src/desk/hand/selecting';
import { Shaping } from '../src/desk/hand/shaping';
import { Treating } from '../src/desk/hand/treating';
import { RecipeStore } from '../src/storage/recipe-store';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { BUILT_IN_RECIPES, type Recipe } from '@early-sparrow/core/recipe';
import { provideDeskStore } from './store';

/** Two tracks of three notes, each 20 ticks late. */
function twoTracks(): Song {
  const one = song([note(0, 260), note(1, 500, { pitch: 62 }), note(2, 740, { pitch: 64 })]);
  const [track] = one.tracks;
  const other = {
    ...track,
    id: 't2',
    name: 'Second',
    parts: [
      {
        ...track.parts[0],
        id: 'p2',
        name: 'Second',
        notes: track.parts[0].notes.map((n) => ({ ...n, id: n.id + 10 })),
      },
    ],
  };
  return { ...one, tracks: [track, other], nextId: 20 };
}

describe('treating and selecting', () => {
  let store: Store;
  let treating: Treating;
  let selecting: Selecting;

  beforeEach(() => {
    TestBed.configureTestingModule({
      providers: [
        provideDeskStore(),
        kit,
        handRoom,
        pictureRoom,
        treatmentRoom,
        fitsRoom,
        listeningRoom,
        recordingRoom,
        tempoRoom,
        reportRoom,
        filesRoom,
        // Lines are found at once, without a worker.
        { provide: Following, useValue: null },
        { provide: Analyst, useValue: { analysis: () => null, progress: () => null, complete: () => true } },
      ],
    });
    store = TestBed.inject(Store);
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(twoTracks()) }));
    treating = TestBed.inject(Treating);
    selecting = TestBed.inject(Selecting);
  });

  const song$ = () => treating.song() as Song;
  const partOf = (track: number): Part => song$().tracks[track].parts[0];
  const starts = (track = 0) => [...treatPart(partOf(track), song$()).start];
  const undo = () => store.dispatch(DeskActions.undo());
  const quantize = { quantize: { on: true, grid: parseGrid('1/16') } };

  it('moves a group as one: at the song’s start and at the last row all of it stops', () => {
    const pitches = Array.from({ length: 128 }, (_, p) => p);
    const { notes } = partOf(0);
    const gap = notes[1].start - notes[0].start;
    TestBed.inject(Shaping).move(
      [notes[0].id, notes[1].id],
      { ticks: -notes[0].start - 100, rows: 100, pitches },
      'corrected',
    );
    const [a, b] = [notes[0].id, notes[1].id].map((id) => partOf(0).notes.find((n) => n.id === id)!);
    const placed = [a, b].map((n) => (n.exception?.kind === 'pinned' ? n.exception.start : n.start));
    expect(placed[0]).toBe(0);
    expect(placed[1]).toBe(gap);
    expect(b.pitch - a.pitch).toBe(notes[1].pitch - notes[0].pitch);
    expect(Math.max(a.pitch, b.pitch)).toBe(127);
  });

  it('asks before Keep drops other versions', () => {
    const versions = {
      current: { id: 'version 1', name: 'A' },
      others: [{ id: 'version 2', name: 'B', treatment: partOf(0).treatment }],
    };
    const edit = { kind: 'part-versions', name: 'x', part: partOf(0).id, versions } as const;
    store.dispatch(DeskActions.edit({ edit }));
    treating.commit('Quantize', quantize);
    const before = song$();
    selecting.keep();
    expect(song$()).toBe(before);
    expect(TestBed.inject(Said).text()).toMatch(/another version.*Press Keep again/);
    // After a change it asks again.
    treating.commit('Quantize', { quantize: { strength: 0.5 } });
    const changed = song$();
    selecting.keep();
    expect(song$()).toBe(changed);
    selecting.keep();
    expect(partOf(0).versions).toBeUndefined();
  });

  it('erases what is selected, and own settings that nothing is left of, as one step', () => {
    const before = song$();
    const [first, second] = partOf(0).notes;
    selecting.select([first.id]);
    selecting.ownSettings();
    selecting.select([first.id, second.id]);
    TestBed.inject(Shaping).erase();
    expect(partOf(0).notes.map((n) => n.id)).not.toContain(first.id);
    expect(partOf(0).notes).toHaveLength(1);
    expect(partOf(0).sets).toEqual([]);
    expect(selecting.count()).toBe(0);
    undo();
    undo();
    expect(song$()).toEqual(before);
    // Undo gives back what was selected.
    expect(selecting.ids()).toEqual([0]);
    selecting.select([]);
    TestBed.inject(Shaping).erase();
    expect(song$()).toEqual(before);
  });

  it('tries without doing, and does as one step', () => {
    const shown = () => treating.shownSong() as Song;
    const shownStarts = () => [...treatPart(shown().tracks[0].parts[0], shown()).start];
    treating.try('Quantize', quantize);
    expect(shownStarts()).toEqual([240, 480, 720]);
    expect(starts()).toEqual([260, 500, 740]);
    treating.endTrying();
    expect(shownStarts()).toEqual([260, 500, 740]);
    treating.commit('Quantize', quantize);
    treating.commit('Strength', { quantize: { strength: 0.5 } });
    expect(starts()).toEqual([250, 490, 730]);
    undo();
    expect(starts()).toEqual([240, 480, 720]);
    undo();
    expect(starts()).toEqual([260, 500, 740]);
  });

  it('a change made while something else is tried starts from the song as it is', () => {
    treating.tryEach('A recipe', (t) => ({ ...t, push: { on: true, amount: { value: 20, unit: 'ms' } } }), true);
    treating.commit('Strength', { quantize: { on: true, strength: 0.5 } });
    expect(partOf(0).treatment.push.on).toBe(false);
    expect(treating.trying()).toBeNull();
    treating.tryEach('Another', (t) => ({ ...t, push: { on: true, amount: { value: 20, unit: 'ms' } } }), true);
    selecting.keep();
    expect(starts()).toEqual([250, 490, 730]);
  });

  it('changes all chosen tracks in one step, and says when they differ', () => {
    treating.commit('Quantize', quantize);
    store.dispatch(DeskActions.toggleTrack({ trackId: 't2' }));
    expect(treating.parts().map((p) => p.id)).toEqual(['p', 'p2']);
    expect(treating.mixed()).toBe(true);
    treating.commit('Grid', { quantize: { on: true, grid: parseGrid('1/8') } });
    expect([starts(0), starts(1)]).toEqual([
      [480, 480, 960],
      [480, 480, 960],
    ]);
    expect(treating.mixed()).toBe(false);
    undo();
    expect(starts(1)).toEqual([260, 500, 740]);
    store.dispatch(DeskActions.toggleTrack({ trackId: 't2' }));
    expect(treating.parts()).toHaveLength(1);
  });

  it('gives the others of several tracks only what was changed', () => {
    store.dispatch(DeskActions.selectTrack({ trackId: 't2' }));
    treating.commit('Own', { quantize: { on: true, strength: 0.3, grid: { value: 8 } }, push: { on: true } });
    store.dispatch(DeskActions.selectTrack({ trackId: 't' }));
    store.dispatch(DeskActions.toggleTrack({ trackId: 't2' }));
    treating.commit('Swing', { quantize: { grid: { swing: 0.6 } } });
    treating.commit('Triplet', { quantize: { grid: { shape: { n: 3, m: 2 } } } });
    expect(partOf(1).treatment.quantize).toMatchObject({ strength: 0.3, grid: { value: 8, swing: 0.6 } });
    expect(partOf(0).treatment.quantize).toMatchObject({ strength: 1, grid: { value: 16, swing: 0.6 } });
    expect(partOf(1).treatment.push.on).toBe(true);
    treating.setOn(false);
    expect([partOf(0).on, partOf(1).on]).toEqual([false, false]);
    undo();
    expect([partOf(0).on, partOf(1).on]).toEqual([true, true]);
    treating.commitEach('Lag', (t, p) => ({
      ...t,
      lag: { on: true, amount: { value: p.id === 'p' ? 1 : 2, unit: 'ms' } },
    }));
    expect([0, 1].map((i) => partOf(i).treatment.lag.amount.value)).toEqual([1, 2]);
  });

  it('puts a stage back to its default', () => {
    expect(treating.differs('push')).toBe(false);
    treating.commit('Push', { push: { on: true, amount: { value: 9, unit: 'ms' } } });
    expect(treating.differs('push')).toBe(true);
    treating.putBack('push');
    expect(treating.differs('push')).toBe(false);
  });

  it('gives selected notes settings of their own, changes those alone, and takes them back', () => {
    treating.commit('Quantize', quantize);
    selecting.select([1]);
    selecting.ownSettings();
    expect(treating.set()?.name).toBe('own settings');
    treating.commit('Strength', { quantize: { strength: 0 } });
    expect(starts()).toEqual([240, 500, 720]);
    expect(selecting.chips().map((c) => c.text)).toEqual(['1 with own settings']);
    selecting.choose(selecting.chips()[0]);
    expect([[...selecting.ids()], treating.set()?.name]).toEqual([[1], 'own settings']);
    selecting.wholePart();
    expect(treating.set()).toBeNull();
    selecting.release();
    expect(starts()).toEqual([240, 480, 720]);
    expect(selecting.chips()).toEqual([]);
    undo();
    expect(starts()).toEqual([240, 500, 720]);
  });

  it('quantizes the selection alone, to the grid of today; twice alike makes one exception', () => {
    selecting.select([0]);
    selecting.quantize(1);
    selecting.select([2]);
    selecting.quantize(1);
    expect(starts()).toEqual([240, 500, 720]);
    expect(selecting.chips().map((c) => c.text)).toEqual(['2 with own settings']);
    selecting.choose(selecting.chips()[0]);
    expect([...selecting.ids()]).toEqual([0, 2]);
    selecting.wholePart();
    selecting.select([1]);
    selecting.quantize(0.5);
    expect(starts()).toEqual([240, 490, 720]);
    treating.commit('Grid', { quantize: { grid: { value: 4 } } });
    selecting.select([2]);
    selecting.quantize(1);
    expect(starts()).toEqual([240, 490, 960]);
    expect(selecting.chips().map((c) => c.text)).toEqual([
      '1 with own settings: 1/16',
      '1 with own settings: 1/16',
      '1 with own settings: 1/4',
    ]);
    selecting.all();
    selecting.asPlayed();
    // Own settings without a note are gone.
    expect(partOf(0).sets).toEqual([]);
  });

  it('all notes of the part are the part: no exception is made of them', () => {
    selecting.all();
    selecting.quantize(1);
    expect(starts()).toEqual([240, 480, 720]);
    expect(partOf(0).sets).toEqual([]);
    expect(partOf(0).treatment.quantize.on).toBe(true);
  });

  it('leaves as played and pins, and moves by hand into a pin', () => {
    treating.commit('Quantize', quantize);
    selecting.select([0]);
    selecting.asPlayed();
    selecting.select([1]);
    selecting.pin();
    TestBed.inject(Shaping).move([2], { rows: 0, pitches: ALL_PITCHES, ticks: -7 }, 'corrected');
    expect(starts()).toEqual([260, 480, 713]);
    treating.commit('Off', { quantize: { on: false } });
    expect(starts()).toEqual([260, 480, 713]);
    expect(selecting.chips().map((c) => c.text)).toEqual(['1 as played', '2 pinned']);
    selecting.choose(selecting.chips()[1]);
    expect([...selecting.ids()]).toEqual([1, 2]);
  });

  it('selects by how notes lie', () => {
    selecting.where((ms) => ms > 10);
    expect(selecting.count()).toBe(3);
    selecting.where((ms) => ms < 0);
    expect(selecting.count()).toBe(0);
    selecting.all();
    expect([...selecting.ids()]).toEqual([0, 1, 2]);
  });

  it('keeps and returns, each exactly undone', () => {
    treating.commit('Quantize', quantize);
    const before = partOf(0);
    selecting.keep();
    expect(partOf(0).notes.map((n) => n.start)).toEqual([240, 480, 720]);
    undo();
    expect(partOf(0)).toEqual(before);
    selecting.select([0]);
    selecting.keep();
    expect(selecting.chips().map((c) => c.text)).toEqual(['1 as played']);
    selecting.choose(selecting.chips()[0]);
    expect([...selecting.ids()]).toEqual([0]);
    treating.commit('Off', { quantize: { on: false } });
    expect(starts()).toEqual([240, 500, 740]);
    selecting.toTake({ starts: true, lengths: true, velocities: true });
    expect(starts()).toEqual([260, 500, 740]);
  });

  it('does nothing, and makes no step, with nothing selected', () => {
    selecting.select([]);
    for (const act of [
      () => selecting.pin(),
      () => selecting.asPlayed(),
      () => selecting.quantize(1),
      () => selecting.ownSettings(),
    ])
      act();
    expect(store.selectSignal(deskFeature.selectUndoName)()).toBeNull();
  });

  it('has one command for each key, and the digits are note values', () => {
    const commands = TestBed.inject(Commands);
    const keys = commands.all.flatMap((c) => c.keys);
    expect(new Set(keys).size).toBe(keys.length);
    expect(new Set(commands.all.map((c) => c.name)).size).toBe(commands.all.length);
    const run = (key: string) => commands.all.find((c) => c.keys.includes(key))?.run(0);
    run('Digit8');
    expect(treating.treatment()?.quantize).toMatchObject({ on: true, grid: { value: 8, shape: 'straight' } });
    run('t');
    expect(treating.treatment()?.quantize.grid.shape).toEqual({ n: 3, m: 2 });
    run('t');
    run('d');
    expect(treating.treatment()?.quantize.grid.shape).toBe('dotted');
    run('$mod+z');
    expect(treating.treatment()?.quantize.grid.shape).toBe('straight');
    run('$mod+y');
    expect(treating.treatment()?.quantize.grid.shape).toBe('dotted');
  });

  it('grid keys leave a groove and say so, and say whom they are for', () => {
    const said = TestBed.inject(Said);
    const run = (key: string) =>
      TestBed.inject(Commands)
        .all.find((c) => c.keys.includes(key))
        ?.run(0);
    run('Digit8');
    expect(said.text()).toBe('');
    const { groove } = BUILT_IN_GROOVES[2];
    treating.commit('Groove', { quantize: { on: true, groove: { groove, timing: 1, velocity: 1 } } });
    run('Digit6');
    expect(treating.treatment()?.quantize).toMatchObject({ groove: null, grid: { value: 16 } });
    expect(said.text()).toContain(`The groove ${groove.name} was switched off.`);
    selecting.select([0, 1]);
    run('Digit4');
    expect(said.text()).toContain('1/4 for the whole part, not only 2 selected notes');
    expect(partOf(0).treatment.quantize.grid.value).toBe(4);
  });

  it('Escape ends what is tried, then closes what was opened last, then selects nothing', () => {
    const escape = () =>
      TestBed.inject(Commands)
        .all.find((c) => c.keys.includes('Escape'))
        ?.run(0);
    const opened = TestBed.inject(Panels);
    const closed: string[] = [];
    for (const name of ['report', 'recipes']) opened.open(name, () => closed.push(name));
    selecting.select([1]);
    treating.try('Quantize', quantize);
    escape();
    expect([treating.trying(), closed]).toEqual([null, []]);
    escape();
    escape();
    expect(closed).toEqual(['recipes', 'report']);
    expect(selecting.count()).toBe(1);
    escape();
    expect(selecting.count()).toBe(0);
  });

  it('tells amounts in three units at the song’s tempo', () => {
    expect(treating.inUnits({ value: 10, unit: 'ms' })).toBe('19.2 t · 1/192 · 10.0 ms');
    expect(treating.inUnits({ value: 4, unit: 'ticks' })).toBe('4 t · 2.1 ms');
    expect(treating.inMs({ value: 96, unit: 'ticks' })).toBe(50);
  });
});

describe('recipes in the browser', () => {
  it('are kept by name and deleted', async () => {
    const recipes = TestBed.inject(RecipeStore);
    await recipes.put({ ...BUILT_IN_RECIPES[0], name: 'Mine' });
    await recipes.put({ ...BUILT_IN_RECIPES[1], name: 'Mine' });
    const list = () =>
      new Promise<readonly { name: string; about: string }[]>((done, fail) => {
        const s = recipes.list$.subscribe({
          next: (l) => {
            done(l);
            setTimeout(() => s.unsubscribe());
          },
          error: fail,
        });
      });
    expect((await list()).map((r) => [r.name, r.about])).toEqual([['Mine', BUILT_IN_RECIPES[1].about]]);
    const [mine] = await list();
    await recipes.rename(mine as Recipe, 'Ours');
    expect((await list()).map((r) => r.name)).toEqual(['Ours']);
    await recipes.remove('Ours');
    expect(await list()).toEqual([]);
  });
});
