import { TestBed } from '@angular/core/testing';
import type { Store } from '@ngrx/store';
import { newPart, newSong, newTrack, type Note, type Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, treatment, type Stages } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Acts } from '../src/desk/shape/acts';
import { Selecting } from '../src/desk/hand/selecting';
import { Shaping } from '../src/desk/hand/shaping';
import { Commands } from '../src/desk/kit/commands';
import { Feedback } from '../src/desk/kit/feedback';
import { LaneBook } from '../src/desk/kit/lane-book';
import type { At } from '../src/desk/kit/pointer';
import { Pointing } from '../src/desk/kit/pointing';
import { ALL_PITCHES, KEYS_WIDTH, Viewport } from '../src/desk/kit/viewport';
import { LANES } from '../src/desk/kit/lane';
import { Gestures } from '../src/desk/picture/gestures';
import { TwoFingers } from '../src/desk/picture/two-fingers';
import { ListeningSettings } from '../src/sound/listening-settings';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { now, open } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

/** A desk whose roll shows half a px a tick from the start on, keys 60 to 64 in the middle. */
function rig(s: Song) {
  const store = open(s);
  jest.spyOn(TestBed.inject(Player), 'wake').mockResolvedValue(true);
  jest.spyOn(TestBed.inject(Player), 'live').mockImplementation(() => undefined);
  const view = TestBed.inject(Viewport);
  view.width.set(KEYS_WIDTH + 2000);
  view.height.set(700);
  view.lanes.set([...TestBed.inject(LANES)].sort((a, b) => a.order - b.order));
  view.end.set(7680);
  view.fitPitches(ALL_PITCHES, 60, 64, 20);
  view.scale.set(0.5);
  view.left.set(0);
  const gestures = TestBed.inject(Gestures);
  const at = (tick: number, pitch: number, more: Partial<At> = {}): At => ({
    offsetX: view.x(tick),
    offsetY: view.y(pitch) + 10,
    button: 0,
    altKey: false,
    ctrlKey: false,
    metaKey: false,
    shiftKey: false,
    ...more,
  });
  const drag = (from: At, to: At, again = false) => {
    const gesture = again ? gestures.again(from) : gestures.begin(from);
    if (!gesture) throw new Error('Nothing begins there.');
    gesture.move({ ...to, offsetX: (from.offsetX + to.offsetX) / 2, offsetY: (from.offsetY + to.offsetY) / 2 });
    gesture.move(to);
    gesture.drop(to);
    return gesture.kind;
  };
  /** A key that is held from one place to another. */
  const sweep = (key: string, from: At, to: At) => {
    const pointing = TestBed.inject(Pointing);
    pointing.move(from);
    const held = TestBed.inject(Commands)
      .all.find((c) => c.keys[0] === key)
      ?.hold?.();
    pointing.move(to);
    held?.drop();
  };
  return { store, view, gestures, at, drag, sweep };
}

const undo = (store: Store) => store.dispatch(DeskActions.undo());
const notes = (): Note[] => now().tracks.flatMap((t) => t.parts.flatMap((p) => p.notes));
const brief = () => notes().map((n) => [n.id, n.start, n.length, n.pitch]);

const three = (stages: Stages = {}) =>
  song([note(0, 260, { pitch: 60 }), note(1, 720, { pitch: 62 }), note(2, 1200, { pitch: 60 })], stages);

/** Two parts of a track, from bar to bar. */
function twoParts(): Song {
  const parts = [
    newPart('p10', 'One', 0, 3840, { notes: [note(0, 480), note(1, 3600)] }),
    newPart('p11', 'Two', 3840, 7680, { notes: [note(2, 3840), note(3, 4800)], treatment: treatment({}) }),
  ];
  return { ...newSong('Parts'), tracks: [newTrack('t12', 'Track', { parts })], nextId: 20 };
}

describe('ends of notes', () => {
  it('are resized to near lines, free with Ctrl, and shorter than a tick never', () => {
    const { drag, at } = rig(three());
    expect(drag(at(458, 60), at(715, 60))).toBe('resize');
    expect(brief()[0]).toEqual([0, 260, 460, 60]);
    drag(at(718, 60), at(-4000, 60, { ctrlKey: true }));
    expect(brief()[0][2]).toBe(1);
  });

  it('under a treatment that moves notes they are pinned, and the take stays', () => {
    const { drag, at, store } = rig(three({ quantize: { on: true } }));
    drag(at(438, 60), at(480, 60));
    expect(part(now()).notes[0]).toMatchObject({
      start: 260,
      length: 200,
      exception: { kind: 'pinned', start: 240, length: 240 },
    });
    undo(store);
    expect(part(now()).notes[0].exception).toBeUndefined();
  });
});

describe('drawing', () => {
  it('in a gap between parts the part before grows, and never over the next one', () => {
    const s = twoParts();
    const [one, two] = s.tracks[0].parts;
    const parts = [{ ...one, end: 1920, notes: [note(0, 480)] }, two];
    const { drag, at } = rig({ ...s, tracks: [{ ...s.tracks[0], parts }] });
    drag(at(2880, 62), at(2880, 62), true);
    expect(now().tracks[0].parts.map((p) => [p.start, p.end, p.notes.length])).toEqual([
      [0, 3840, 2],
      [3840, 7680, 2],
    ]);
  });

  it('selects what was drawn, and undo brings back selection and song', () => {
    const { drag, at, store } = rig(three());
    TestBed.inject(Selecting).select([1]);
    drag(at(1925, 61), at(1925, 61), true);
    expect([...TestBed.inject(Selecting).ids()]).toEqual([3]);
    expect(brief()[3]).toEqual([3, 1920, 240, 61]);
    undo(store);
    expect([...TestBed.inject(Selecting).ids()]).toEqual([1]);
    expect(notes()).toHaveLength(3);
  });

  it('a tab that only reads is told so, and nothing is drawn', () => {
    const { drag, at, store } = rig(three());
    store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    drag(at(1925, 61), at(1925, 61), true);
    expect(notes()).toHaveLength(3);
    expect(store.selectSignal(deskFeature.selectRefused)()?.problem).toMatch(/edited in another tab/);
    expect(store.selectSignal(deskFeature.selectPreview)()).toBeNull();
  });

  it('a run has a note a step, at the height of the pointer, and none twice where it goes back', () => {
    const { gestures, at } = rig(three());
    const run = gestures.again(at(1925, 60, { shiftKey: true }));
    run?.move(at(2890, 63, { shiftKey: true }));
    run?.move(at(1925, 60, { shiftKey: true }));
    run?.drop(at(1925, 60, { shiftKey: true }));
    const drawn = notes().slice(3);
    expect(drawn.map((n) => n.start)).toEqual([1920, 2160, 2400, 2640, 2880]);
    for (const n of drawn) expect(n.pitch).toBeGreaterThanOrEqual(60);
  });

  it('in an empty track the first note makes the first part', () => {
    const { drag, at } = rig({ ...newSong('Empty'), tracks: [newTrack('t0', 'Bass')], nextId: 1 });
    drag(at(5000, 62), at(5000, 62), true);
    expect(now().tracks[0].parts).toMatchObject([{ start: 3840, end: 7680, name: 'Bass' }]);
  });
});

describe('over parts', () => {
  it('a press on a note of another part takes that in hand; the selection reaches over both', () => {
    const { gestures, at, store } = rig(twoParts());
    gestures.under(at(500, 60)).click?.(at(500, 60));
    gestures.under(at(4820, 60)).click?.(at(4820, 60, { shiftKey: true }));
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 3]);
    expect(store.selectSignal(deskFeature.selectPart)()?.id).toBe('p11');
    TestBed.inject(Acts).transpose(2);
    expect(notes().map((n) => n.pitch)).toEqual([62, 60, 60, 62]);
    TestBed.inject(Selecting).asPlayed();
    expect(notes().map((n) => n.exception?.kind)).toEqual(['as-played', undefined, undefined, 'as-played']);
    TestBed.inject(Selecting).ownSettings();
    expect(now().tracks[0].parts.map((p) => p.sets.length)).toEqual([1, 1]);
    TestBed.inject(Selecting).release();
    expect(now().tracks[0].parts.map((p) => p.sets.length)).toEqual([0, 0]);
    for (let i = 0; i < 4; i++) undo(store);
    expect(now()).toEqual(twoParts());
  });

  it('a frame takes the notes of both parts, and so does a sweep', () => {
    const { drag, at, sweep } = rig(twoParts());
    drag(at(3500, 63), at(4000, 58));
    expect([...TestBed.inject(Selecting).ids()].sort()).toEqual([1, 2]);
    sweep('x', at(3590, 60), at(4900, 60));
    expect(notes().map((n) => n.id)).toEqual([0]);
  });
});

describe('verbs', () => {
  it('a sweep that is faster than the pointer tells leaves no note out, and is one step', () => {
    const s = song(Array.from({ length: 12 }, (_, i) => note(i, i * 240, { length: 40 })));
    const { sweep, at, store } = rig(s);
    sweep('a', at(0, 60), at(2700, 60));
    expect(notes().every((n) => n.muted)).toBe(true);
    undo(store);
    expect(now()).toEqual(s);
  });

  it('on the side as played the change shows under Corrected, and that is told', () => {
    const { sweep, at, store } = rig(three({ quantize: { on: true } }));
    store.dispatch(DeskActions.compare({ which: 'played' }));
    sweep('w', at(300, 60), at(300, 60));
    expect(store.selectSignal(deskFeature.selectCompare)()).toBe('corrected');
    expect(TestBed.inject(Said).text()).toMatch(/take is unchanged/);
    const { start, end } = treatPart(part(now()), now());
    expect(end[0] - start[0]).toBe(440);
  });

  it('beside every note nothing happens', () => {
    const { sweep, at } = rig(three());
    sweep('x', at(2500, 64), at(3000, 64));
    expect(notes()).toHaveLength(3);
    expect(TestBed.inject(Feedback).marked().size).toBe(0);
  });
});

describe('lanes', () => {
  it('a stroke over velocities touches the selected notes only, where any are', () => {
    const { drag, view, at } = rig(three());
    TestBed.inject(LaneBook).toggle('velocity');
    const { top, height } = view.frameOf('velocity');
    const y = top + height * 0.85;
    const across = (from: number, to: number) => drag({ ...at(from, 60), offsetY: y }, { ...at(to, 60), offsetY: y });
    TestBed.inject(Selecting).select([1]);
    across(100, 1500);
    expect(notes().map((n) => n.velocity === 80)).toEqual([true, false, true]);
    TestBed.inject(Selecting).select([]);
    across(100, 1500);
    expect(new Set(notes().map((n) => n.velocity)).size).toBe(1);
  });

  it('leave the roll its room, however many are open and however tall they were dragged', () => {
    const { view } = rig(three());
    const book = TestBed.inject(LaneBook);
    for (const id of ['velocity', 'length', 'pedal', 'bend', 'pressure', 'controller']) book.toggle(id);
    book.resize('velocity', 2000);
    expect(view.rollHeight()).toBeGreaterThan(200);
    view.height.set(300);
    expect(view.rollHeight()).toBeGreaterThan(60);
  });
});

describe('commands on what is selected', () => {
  it('without a selection they say what to do', () => {
    rig(three());
    TestBed.inject(Selecting).select([]);
    TestBed.inject(Acts).legato();
    expect(TestBed.inject(Said).text()).toMatch(/^No notes are selected/);
    TestBed.inject(Acts).duplicate();
    expect(notes()).toHaveLength(3);
  });

  it('a copy falls right behind, from the line that the first note is on', () => {
    rig(three());
    TestBed.inject(Selecting).all();
    TestBed.inject(Acts).duplicate();
    expect(notes().map((n) => n.start)).toEqual([260, 720, 1200, 1460, 1920, 2400]);
  });

  it('copies at the song’s start stop there as one', () => {
    rig(three());
    const copies = TestBed.inject(Shaping).copied([0, 1], { ticks: -1000, rows: 0, pitches: ALL_PITCHES }, 'corrected');
    TestBed.inject(Shaping).add(copies, 'copy');
    expect(notes().map((n) => n.start)).toEqual([0, 260, 460, 720, 1200]);
  });
});

describe('touching a note', () => {
  it('sounds it once, though a press and a click come to it, and not while that is off', async () => {
    const { gestures, at } = rig(three());
    const live = jest.mocked(TestBed.inject(Player).live);
    const press = async () => {
      gestures.begin(at(300, 60));
      gestures.under(at(300, 60)).click?.(at(300, 60));
      await Promise.resolve();
      await Promise.resolve();
      return live.mock.calls.filter(([, bytes]) => bytes[0] === 0x90).length;
    };
    expect(await press()).toBe(1);
    TestBed.inject(ListeningSettings).set({ touch: false });
    expect(await press()).toBe(1);
    expect(TestBed.inject(Shaping).loudness()).toBe(80);
  });
});

describe('two fingers', () => {
  it('move and zoom the picture, and steer nothing that one finger began', () => {
    const { view } = rig(three());
    const fingers = new TwoFingers(view);
    const finger = (pointerId: number, offsetX: number) => ({ pointerId, pointerType: 'touch', offsetX, offsetY: 200 });
    expect(fingers.down(finger(1, 500))).toBe(false);
    expect(fingers.down(finger(2, 700))).toBe(true);
    const before = view.scale();
    fingers.move(finger(2, 900));
    expect(view.scale()).toBeCloseTo(before * 2, 5);
    fingers.up(finger(2, 900));
    expect(fingers.move(finger(1, 510))).toBe(false);
    expect(fingers.down({ ...finger(3, 500), pointerType: 'mouse' })).toBe(false);
  });
});
