import { TestBed } from '@angular/core/testing';
import { doEdit, isProblem, startHistory, type Edit } from '@early-sparrow/core/edit';
import { move } from '@early-sparrow/core/shape';
import type { Pieces } from '@early-sparrow/core/maths';
import { note, part, song, treatment } from '../../core/test/build';
import { Said } from '../src/common/said';
import { LongSteps } from '../src/desk/hand/long-steps';
import { Selecting } from '../src/desk/hand/selecting';
import { Shaping } from '../src/desk/hand/shaping';
import { Turns } from '../src/desk/hand/turns';
import { DeskActions, deskFeature, type DeskState } from '../src/state/desk.feature';
import { now, open, starts } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

const COUNT = 20_500;
const MANY = song(
  Array.from({ length: COUNT }, (_, i) => note(i, i * 120 + (i % 7), { length: 90, pitch: 48 + (i % 30) })),
  { quantize: { on: true } },
);
const BY = { ticks: 3, rows: 0, pitches: [] };
const ids = part(MANY).notes.map((n) => n.id);

function rig() {
  const store = open(MANY);
  store.dispatch(DeskActions.selectNotes({ ids }));
  const [shaping, steps, turns] = [TestBed.inject(Shaping), TestBed.inject(LongSteps), TestBed.inject(Turns)];
  const nudge = () => shaping.move(ids, BY, 'corrected', 'nudge');
  const state = (): DeskState => store.selectSignal(deskFeature.selectDeskState)();
  return { store, shaping, steps, turns, nudge, state };
}

/** Until what was begun is over. */
async function over(turns: Turns): Promise<void> {
  while (turns.working()) await new Promise((next) => setTimeout(next, 5));
}

/** The same move, made at once. */
function moved(): typeof MANY {
  const edit = move(MANY, MANY.tracks[0], ids, 'corrected', BY) as Edit;
  const after = doEdit(startHistory(MANY), edit);
  if (isProblem(after)) throw new Error(after.problem);
  return after.song;
}

describe('a step of very many notes', () => {
  it('is made in turns with the page, and is then what it would have been at once', async () => {
    const { nudge, turns, state } = rig();
    nudge();
    expect(turns.working()).toBe(true);
    expect(now() === MANY).toBe(true);
    await over(turns);
    expect(now().tracks).toEqual(moved().tracks);
    const { deed, history, selection } = state();
    expect(deed).toMatchObject({ act: 'do', edit: { how: 'nudge', name: 'Move 20500 notes' } });
    expect(history?.undo).toHaveLength(1);
    expect(history?.undo[0].place?.selection).toBe(ids);
    expect(selection).toBe(ids);
  });

  it('is there for whatever the user does next: a press of a key or the pointer finishes it', () => {
    for (const event of [new KeyboardEvent('keydown', { key: 'x' }), new Event('pointerdown')]) {
      TestBed.resetTestingModule();
      const { nudge, turns } = rig();
      nudge();
      expect(now() === MANY).toBe(true);
      document.body.dispatchEvent(event);
      expect(turns.working()).toBe(false);
      expect(now().tracks).toEqual(moved().tracks);
    }
  });

  it('goes on with the one before where a key is held, and undo and redo go there and back', async () => {
    const { nudge, turns, steps, state } = rig();
    nudge();
    nudge();
    nudge();
    await over(turns);
    expect(state().history?.undo).toHaveLength(1);
    const there = now();
    expect(part(there).notes[5].exception).toMatchObject({ kind: 'pinned' });
    steps.undo();
    expect(turns.working()).toBe(true);
    await over(turns);
    expect(now().tracks).toEqual(MANY.tracks);
    expect(state().deed?.act).toBe('undo');
    steps.redo();
    steps.undo();
    steps.redo();
    await over(turns);
    expect(now().tracks).toEqual(there.tracks);
    expect(state().history?.redo).toHaveLength(0);
  });

  it('that is over in its first turn ends once, though the next one comes at once', async () => {
    const { turns } = rig();
    const ended: string[] = [];
    const work = function* (name: string): Pieces<() => void> {
      return () => void ended.push(name);
    };
    await Promise.all([turns.do(work('a')), turns.do(work('b'))]);
    expect(ended).toEqual(['a', 'b']);
    expect(turns.working()).toBe(false);
  });

  it('that fails is over, and the next one goes on', async () => {
    const { turns } = rig();
    const ended: string[] = [];
    const work = function* (fails: boolean): Pieces<() => void> {
      if (fails) throw new Error('It does not work.');
      yield;
      return () => void ended.push('next');
    };
    const both = await Promise.allSettled([turns.do(work(true)), turns.do(work(false))]);
    expect(both.map(({ status }) => status)).toEqual(['rejected', 'fulfilled']);
    expect(ended).toEqual(['next']);
    expect(turns.working()).toBe(false);
  });

  it('loses nothing that came from elsewhere meanwhile', async () => {
    const { nudge, turns, store, steps } = rig();
    nudge();
    store.dispatch(DeskActions.edit({ edit: { kind: 'song-name', name: 'Rename', to: 'Elsewhere' } }));
    await over(turns);
    expect(now().name).toBe('Elsewhere');
    expect(part(now()).notes).toEqual(part(moved()).notes);
    steps.undo();
    store.dispatch(DeskActions.undo());
    await over(turns);
    // Two steps were taken back, each once.
    expect(now()).toMatchObject({ name: MANY.name, tracks: MANY.tracks });
  });

  it('keeps the whole part as it sounds', async () => {
    const { turns } = rig();
    const sounding = starts();
    TestBed.inject(Selecting).keep();
    await over(turns);
    expect(starts()).toEqual(sounding);
    expect(TestBed.inject(Said).text()).toBe('Keep Part. It sounds as before.');
    expect(part(now()).treatment.quantize.on).toBe(false);
  });

  it('is refused in a tab that reads, and nothing is left over', async () => {
    const { nudge, turns, store, steps } = rig();
    store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    nudge();
    await over(turns);
    expect(now() === MANY).toBe(true);
    steps.undo();
    expect(turns.working()).toBe(false);
    expect(store.selectSignal(deskFeature.selectRefused)()?.problem).toMatch(
      /^This song is being edited in another tab/,
    );
  });

  it('is nothing where nothing would change', async () => {
    const { turns, store } = rig();
    store.dispatch(DeskActions.edit({ edit: { kind: 'treatment', name: 'x', part: 'p', treatment: treatment({}) } }));
    const before = now();
    TestBed.inject(Shaping).move(ids, { ...BY, ticks: 0 }, 'corrected', 'nudge');
    await over(turns);
    expect(now() === before).toBe(true);
  });
});
