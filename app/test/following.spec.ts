import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { gridLines, parseGrid } from '@early-sparrow/core/grid';
import { timeOf, type Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, part, song } from '../../core/test/build';
import { Following, FollowingFault } from '../src/desk/hand/following';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { WorkerLink } from '../src/workers/worker-link';
import { provideDeskStore } from './store';

describe('following a player in a worker', () => {
  const quantize = { on: true, lines: 'follow' as const, grid: parseGrid('1/16') };
  let s: Song;
  /** Each chord on the line after the nearest one. */
  const later = (place: Float64Array) => {
    const lines = gridLines(quantize.grid, timeOf(s));
    return { line: place.map((t) => lines.nearest(t) + 240), drift: new Float64Array(place.length) };
  };
  let following: Following;
  let answers: ((ok: boolean) => void)[];

  beforeEach(() => {
    answers = [];
    // What was found for a song is remembered: each test has one of its own.
    s = song(
      Array.from({ length: 24 }, (_, i) => note(i, i * 240 + 100)),
      { quantize },
    );
    TestBed.configureTestingModule({ providers: [provideDeskStore(), Following] });
    TestBed.inject(Store).dispatch(
      DeskActions.opened({ songId: 'x', history: startHistory(s), role: 'writer', damage: null }),
    );
    jest.spyOn(WorkerLink.prototype, 'ask').mockImplementation(
      (ask) =>
        new Promise((done, fail) => {
          const api = { follow: (place: Float64Array) => Promise.resolve(later(place)) };
          answers.push((ok) => (ok ? done(ask(api as never, undefined as never) as never) : fail(new Error('broken'))));
        }),
    );
    following = TestBed.inject(Following);
  });
  afterEach(() => jest.restoreAllMocks());

  const starts = (shown: Song) => [...treatPart(part(shown), shown).start];
  const shown = () => TestBed.inject(Store).selectSignal(deskFeature.selectSong)() ?? s;
  const nearest = Array.from({ length: 24 }, (_, i) => i * 240);

  it('waits for a question that the computation itself raises', async () => {
    const whole = following.whole(s, starts);
    await new Promise((go) => setTimeout(go));
    expect(answers).toHaveLength(1);
    answers[0](true);
    expect(await whole).toEqual(nearest.map((t) => t + 240));
  });

  it('writes nothing with nearest lines where the worker failed, and asks again', async () => {
    const whole = following.whole(s, starts);
    await new Promise((go) => setTimeout(go));
    answers[0](false);
    await expect(whole).rejects.toThrow(FollowingFault);
    expect(starts(shown())).toEqual(nearest);
    const again = following.whole(s, starts);
    await new Promise((go) => setTimeout(go));
    expect(answers).toHaveLength(2);
    answers[1](true);
    expect(await again).toEqual(nearest.map((t) => t + 240));
  });
});
