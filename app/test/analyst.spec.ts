import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { analyseColumns, type Analysis } from '@early-sparrow/core/insight';
import type { SongTimes } from '@early-sparrow/core/song';
import type { NoteColumns } from '@early-sparrow/core/treatment';
import { note, song, treatment } from '../../core/test/build';
import { Analyst } from '../src/desk/fits/analyst';
import { ChosenParts } from '../src/desk/hand/chosen-parts';
import { Treating } from '../src/desk/hand/treating';
import { DeskActions } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

/** What the worker was asked; it answers when it is told to. */
const asked: { answer: () => void; fail: () => void; taken: boolean }[] = [];
jest.mock('../src/workers/worker-link', () => {
  class Cancelled extends Error {}
  return {
    Cancelled,
    WorkerLink: class {
      end = () => undefined;
      ask = (question: (api: unknown, told: unknown) => Promise<Analysis>, { signal }: { signal?: AbortSignal }) =>
        Promise.race([
          question(
            {
              analyse: (notes: NoteColumns, time: SongTimes) =>
                new Promise<Analysis>((done, fail) => {
                  const one = {
                    answer: () => done(analyseColumns(notes, time)),
                    fail: () => fail(new Error('broken')),
                    taken: false,
                  };
                  asked.push(one);
                  signal?.addEventListener('abort', () => (one.taken = true));
                }),
            },
            () => undefined,
          ),
          // The worker may compute on, as it does in the browser.
          new Promise<never>((_, fail) => signal?.addEventListener('abort', () => fail(new Cancelled()))),
        ]);
    },
  };
});

describe('the analyst', () => {
  let store: Store;
  let analyst: Analyst;
  const base = song(Array.from({ length: 40 }, (_, i) => note(i, i * 240 + 20)));
  const settle = async () => {
    TestBed.tick();
    await new Promise((done) => setTimeout(done, 5));
    TestBed.tick();
  };

  beforeEach(async () => {
    asked.splice(0);
    TestBed.configureTestingModule({ providers: [provideDeskStore(), ChosenParts, Treating, Analyst] });
    store = TestBed.inject(Store);
    const fresh = {
      ...base,
      tracks: base.tracks.map((t) => ({ ...t, parts: t.parts.map((p) => ({ ...p, notes: [...p.notes] })) })),
    };
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(fresh) }));
    analyst = TestBed.inject(Analyst);
    await settle();
  });

  it('listens by itself, once, however often the treatment changes meanwhile', async () => {
    expect(asked).toHaveLength(1);
    expect(analyst.progress()).toBe(0);
    for (const strength of [0.2, 0.4, 0.6]) {
      const edit = {
        kind: 'treatment',
        name: 'x',
        part: 'p',
        treatment: treatment({ quantize: { on: true, strength } }),
      } as const;
      store.dispatch(DeskActions.preview({ edit }));
      await settle();
      store.dispatch(DeskActions.edit({ edit }));
      await settle();
    }
    expect(asked).toHaveLength(1);
    asked[0].answer();
    await settle();
    expect(analyst.analysis()?.fits[0].text).toBe('1/16');
    expect(analyst.progress()).toBeNull();
    expect(analyst.complete()).toBe(true);
  });

  it('listens to tracks that are chosen while it listens to another', async () => {
    const [track] = base.tracks;
    const other = (n: number) => {
      const notes = track.parts[0].notes.map((x) => ({ ...x, id: x.id + 100 * n, start: x.start + n }));
      return { ...track, id: `t${n}`, parts: [{ ...track.parts[0], id: `p${n}`, notes }] };
    };
    const three = { ...base, tracks: [track, other(1), other(2)], nextId: 500 };
    store.dispatch(DeskActions.opened({ songId: 'y', history: startHistory(three) }));
    await settle();
    for (const trackId of ['t1', 't2']) {
      store.dispatch(DeskActions.toggleTrack({ trackId }));
      await settle();
    }
    // Each answer may bring a further question.
    for (const question of asked) {
      question.answer();
      await settle();
    }
    expect(analyst.complete()).toBe(true);
  });

  it('listens anew once the tempo is another', async () => {
    asked[0].answer();
    await settle();
    store.dispatch(DeskActions.edit({ edit: { kind: 'tempo', name: 'x', to: [{ tick: 0, usPerQuarter: 900_000 }] } }));
    await settle();
    expect(analyst.analysis()).toBeNull();
    expect(asked).toHaveLength(2);
    asked.at(-1)?.answer();
    await settle();
    expect(analyst.analysis()?.lag?.ms).toBeCloseTo(18.75, 0);
  });

  it('is taken back on a press, and begins again on another', async () => {
    analyst.cancel();
    await settle();
    expect(asked[0].taken).toBe(true);
    expect(analyst.progress()).toBeNull();
    expect(analyst.problem()).toBeNull();
    analyst.again();
    await settle();
    expect(asked).toHaveLength(2);
  });

  it('keeps what the worker still tells of notes that are not looked at any more, and does not ask for it again', async () => {
    const [track] = base.tracks;
    const [part] = track.parts;
    const own = { ...track, parts: [{ ...part, notes: part.notes.map((n) => ({ ...n })) }] };
    const notes = part.notes.map((n) => ({ ...n, id: n.id + 100, start: n.start + 7 }));
    const other = { ...track, id: 'other', parts: [{ ...part, id: 'q', notes }] };
    store.dispatch(
      DeskActions.opened({ songId: 'y', history: startHistory({ ...base, tracks: [own, other], nextId: 500 }) }),
    );
    await settle();
    const [, first] = asked;
    store.dispatch(DeskActions.selectTrack({ trackId: 'other' }));
    await settle();
    expect(first.taken).toBe(true);
    expect(analyst.analysis()).toBeNull();
    first.answer();
    await settle();
    // It is not taken for that of the notes at hand.
    expect(analyst.analysis()).toBeNull();
    asked[2].answer();
    await settle();
    expect(analyst.analysis()).not.toBeNull();
    store.dispatch(DeskActions.selectTrack({ trackId: own.id }));
    await settle();
    expect(analyst.analysis()?.fits[0].text).toBe('1/16');
    expect(asked).toHaveLength(3);
  });

  it('says so where the worker breaks', async () => {
    asked[0].fail();
    await settle();
    expect(analyst.problem()).toMatch(/analysis failed/);
    expect(analyst.progress()).toBeNull();
  });
});
