import { TestBed } from '@angular/core/testing';
import { grid } from '@early-sparrow/core/grid';
import { analysePart, type Analysis } from '@early-sparrow/core/insight';
import type { Note, Song } from '@early-sparrow/core/song';
import { note, part, song, type Stages } from '../../core/test/build';
import { Analyst } from '../src/desk/fits/analyst';
import { Lifter } from '../src/desk/treatment/lifter';
import { DeskActions } from '../src/state/desk.feature';
import { open } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

/** Eight bars of sixteenths whose off-beats come at a share of their pair. */
const sixteenths = (share: number, first = 0): Note[] =>
  Array.from({ length: 128 }, (_, i) =>
    note(first + i, Math.floor(i / 2) * 480 + (i % 2) * Math.round(480 * share) + (i % 3) * 2, { length: 100 }),
  );

/** A song of a track that is to be lined up, and of one that swings. */
function two(stages: Stages, other: readonly Note[]): Song {
  const one = song([note(900, 0), note(901, 480), note(902, 960)], stages);
  const [track] = one.tracks;
  const swings = { ...track, id: 't2', name: 'Kit', parts: [{ ...part(one), id: 'p2', notes: other }] };
  return { ...one, tracks: [track, swings], nextId: 2000 };
}

describe('a swing that is lifted from another track', () => {
  /** Opens a song; the other track is heard when it is let. */
  function lifting(s: Song) {
    let heard: () => void = () => undefined;
    const store = open(s);
    const listen = (notes: readonly Note[]) =>
      new Promise<Analysis | null>((done) => {
        heard = () => done(analysePart({ ...part(s), notes }, s));
      });
    Object.assign(TestBed.inject(Analyst), { listen });
    return { store, lifter: TestBed.inject(Lifter), hear: () => heard() };
  }

  it('is the swing of its steps: sixteenths that swing are no eighths that do', async () => {
    const { lifter, hear } = lifting(two({ quantize: { on: true, grid: grid(8) } }, sixteenths(0.62)));
    const lifted = lifter.swing('t2');
    expect(lifter.listening()).toBe(true);
    hear();
    const { swing, ...steps } = (await lifted)!;
    expect(steps).toEqual({ value: 16, shape: 'straight' });
    expect(Math.abs(swing - 0.62)).toBeLessThan(0.01);
    expect(lifter.listening()).toBe(false);
  });

  it('is none where the track plays triplets, which go by no pairs', async () => {
    const triplets = Array.from({ length: 96 }, (_, i) => note(i, i * 320, { length: 100 }));
    const { lifter, hear } = lifting(two({ quantize: { on: true, grid: grid(8) } }, triplets));
    const lifted = lifter.swing('t2');
    hear();
    expect(await lifted).toBeNull();
  });

  it('is for nobody where another part is taken in hand before the track was heard', async () => {
    const { store, lifter, hear } = lifting(two({ quantize: { on: true, grid: grid(8) } }, sixteenths(0.62)));
    for (const lift of [() => lifter.swing('t2'), () => lifter.groove('t2')]) {
      store.dispatch(DeskActions.selectTrack({ trackId: 't' }));
      const lifted = lift();
      hear();
      store.dispatch(DeskActions.selectTrack({ trackId: 't2' }));
      expect(await lifted).toBeUndefined();
    }
  });
});
