import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Part, Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, song } from '../../core/test/build';
import { Commands } from '../src/desk/commands';
import { Selecting } from '../src/desk/selecting';
import { Treating } from '../src/desk/treating';
import { RecipeStore } from '../src/storage/recipe-store';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { BUILT_IN_RECIPES } from '@early-sparrow/core/recipe';
import { provideDeskStore } from './store';

/** Two tracks of three notes, each 20 ticks late. */
function twoTracks(): Song {
  const one = song([note(0, 260), note(1, 500, { pitch: 62 }), note(2, 740, { pitch: 64 })]);
  const [track] = one.tracks;
  const other = {
    ...track,
    id: 't2',
    name: 'Second',
    source: 1,
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
      providers: [provideDeskStore(), Treating, Selecting, Commands],
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

  it('tries without doing, and does as one step', () => {
    treating.try('Quantize', quantize);
    expect(starts()).toEqual([240, 480, 720]);
    treating.preview(null);
    expect(starts()).toEqual([260, 500, 740]);
    treating.commit('Quantize', quantize);
    treating.commit('Strength', { quantize: { strength: 0.5 } });
    expect(starts()).toEqual([250, 490, 730]);
    undo();
    expect(starts()).toEqual([240, 480, 720]);
    undo();
    expect(starts()).toEqual([260, 500, 740]);
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
    expect(selecting.chips()).toMatchObject([{ text: '1 own settings', ids: [1] }]);
    selecting.wholePart();
    expect(treating.set()).toBeNull();
    selecting.release();
    expect(starts()).toEqual([240, 480, 720]);
    expect(selecting.chips()).toEqual([]);
    undo();
    expect(starts()).toEqual([240, 500, 720]);
  });

  it('quantizes the selection alone; twice makes one exception', () => {
    selecting.select([0]);
    selecting.quantize(1);
    selecting.select([2]);
    selecting.quantize(1);
    expect(starts()).toEqual([240, 500, 720]);
    expect(selecting.chips()).toMatchObject([{ text: '2 quantize', ids: [0, 2] }]);
    selecting.select([1]);
    selecting.quantize(0.5);
    expect(starts()).toEqual([240, 490, 720]);
  });

  it('leaves as played and pins, and moves by hand into a pin', () => {
    treating.commit('Quantize', quantize);
    selecting.select([0]);
    selecting.asPlayed();
    selecting.select([1]);
    selecting.pin();
    selecting.move([2], -7);
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
    const keys = commands.all.flatMap((c) => (c.key ? [c.key] : []));
    expect(new Set(keys).size).toBe(keys.length);
    expect(new Set(commands.all.map((c) => c.name)).size).toBe(commands.all.length);
    const run = (key: string) => commands.all.find((c) => c.key === key)?.run();
    run('Digit8');
    expect(treating.treatment()?.quantize).toMatchObject({ on: true, grid: { value: 8, shape: 'straight' } });
    run('KeyT');
    expect(treating.treatment()?.quantize.grid.shape).toEqual({ n: 3, m: 2 });
    run('KeyT');
    run('KeyD');
    expect(treating.treatment()?.quantize.grid.shape).toBe('dotted');
    run('$mod+KeyZ');
    expect(treating.treatment()?.quantize.grid.shape).toBe('straight');
  });

  it('tells amounts in three units at the song’s tempo', () => {
    expect(treating.inUnits(10)).toBe('19.2 t · 1/200 · 10.0 ms');
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
    await recipes.remove('Mine');
    expect(await list()).toEqual([]);
  });
});
