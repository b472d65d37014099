import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, type Stages } from '../../core/test/build';
import { Looping } from '../src/desk/listening/looping';
import { laneY } from '../src/desk/picture/draw-lane';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../src/desk/kit/viewport';
import { Scenery } from '../src/desk/hand/scenery';
import { Feedback } from '../src/desk/kit/feedback';
import { LaneBook } from '../src/desk/kit/lane-book';
import type { At } from '../src/desk/kit/pointer';
import { Gestures } from '../src/desk/picture/gestures';
import { OffsetLane } from '../src/desk/picture/offset-lane';
import { Selecting } from '../src/desk/hand/selecting';
import { Treating } from '../src/desk/hand/treating';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { now, open, settings, starts } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

describe('gestures', () => {
  const view = () => TestBed.inject(Viewport);

  function rig(stages: Stages = {}) {
    open(song([note(0, 260, { pitch: 60 }), note(1, 500, { pitch: 64 }), note(2, 1000, { pitch: 60 })], stages));
    const v = view();
    v.width.set(KEYS_WIDTH + 960);
    v.height.set(600);
    const offsets = TestBed.inject(OffsetLane);
    TestBed.inject(LaneBook).resize('offset', 200);
    v.lanes.set([offsets]);
    v.end.set(7680);
    v.fitPitches(ALL_PITCHES, 60, 64, 20);
    v.scale.set(0.5);
    v.left.set(0);
    const gestures = TestBed.inject(Gestures);
    const store = TestBed.inject(Store);
    const shown = store.selectSignal(deskFeature.selectShownSong);
    const shownNow = () => shown() as Song;
    const { picture } = TestBed.inject(Scenery);
    const feedback = TestBed.inject(Feedback);
    const at = ([x, y]: [number, number], more: Partial<At> = {}): At => ({
      offsetX: x,
      offsetY: y,
      button: 0,
      altKey: false,
      ctrlKey: false,
      metaKey: false,
      shiftKey: false,
      ...more,
    });
    /** Presses, drags over half of the way, and lets go or takes back, as the view does. */
    const drag = (from: [number, number], to: [number, number], more: Partial<At> = {}, takenBack = false) => {
      const gesture = gestures.begin(at(from, more));
      gesture.move(at([(from[0] + to[0]) / 2, (from[1] + to[1]) / 2], more));
      gesture.move(at(to, more));
      const tried = shownNow();
      if (takenBack) gesture.cancel();
      else gesture.drop(at(to, more));
      return { kind: gesture.kind, tried };
    };
    const row = (pitch: number) => v.y(pitch) + 10;
    const place = (tick: number, pitch = 60): [number, number] => [v.x(tick) + 3, row(pitch)];
    /** Where an offset lies in the lane. */
    const y = (ms: number) => laneY(v.frameOf('offset'), picture(), ms);
    return { at, gestures, feedback, drag, row, v, y, picture, store, shownNow, place };
  }

  it('a note follows the pointer, snaps to a near line, and does not with Ctrl', () => {
    const { drag, place } = rig();
    const { kind, tried } = drag(place(260), place(470));
    expect(kind).toBe('note');
    expect(treatPart(part(tried), tried).start[0]).toBe(480);
    expect(starts()[0]).toBe(480);
    drag(place(480), place(470), { ctrlKey: true });
    expect(starts()[0]).toBe(470);
    drag(place(470), place(590));
    expect(part(now()).notes.find((n) => n.id === 0)?.start).toBe(590);
  });

  it.each<[string, (r: ReturnType<typeof rig>) => [[number, number], [number, number]]]>([
    ['a note', ({ place }) => [place(260), place(900, 64)]],
    [
      'the swing',
      ({ v }) => [
        [v.x(240), RULER_HEIGHT - 7],
        [v.x(300), RULER_HEIGHT - 7],
      ],
    ],
    [
      'a loop',
      ({ v }) => [
        [v.x(120), 5],
        [v.x(1890), 5],
      ],
    ],
    [
      'a rectangle',
      ({ v, row }) => [
        [v.x(200), row(66)],
        [v.x(600), row(59)],
      ],
    ],
  ])('a drag of %s that is taken back leaves everything as it was', (_, way) => {
    const r = rig();
    const before = now();
    const [from, to] = way(r);
    r.drag(from, to, {}, true);
    expect(now()).toBe(before);
    expect(r.shownNow()).toBe(before);
    expect(r.feedback.box()).toBeNull();
    expect(TestBed.inject(Player).loop()).toEqual({ from: 0, to: 0 });
    expect([...TestBed.inject(Selecting).ids()]).toEqual([]);
  });

  it('up and down changes the pitch, neither moves in time nor pins', () => {
    const { drag, place } = rig();
    const [x, y] = place(260, 60);
    drag([x, y], [x + 2, place(260, 63)[1]]);
    const moved = part(now()).notes.find((n) => n.id === 0);
    expect(moved).toMatchObject({ start: 260, pitch: 63 });
    expect(moved?.exception).toBeUndefined();
  });

  it('in As played the note lands where it is dropped, and is shown there; the take stays', () => {
    const { at, feedback, place, store, v } = rig({ quantize: { on: true, grid: parseGrid('1/4') } });
    store.dispatch(DeskActions.compare({ which: 'played' }));
    const gesture = TestBed.inject(Gestures).begin(at(place(500, 64), { ctrlKey: true }));
    gesture.move(at(place(600, 64), { ctrlKey: true }));
    // On its way a ghost of it follows the pointer, since the take's own picture stays.
    expect(feedback.box()?.x).toBeCloseTo(v.x(600), 6);
    gesture.drop(at(place(600, 64), { ctrlKey: true }));
    expect(feedback.box()).toBeNull();
    const moved = part(now()).notes.find((n) => n.id === 1);
    expect(moved?.exception).toMatchObject({ kind: 'pinned', start: 600 });
    expect(moved?.start).toBe(500);
    expect(store.selectSignal(deskFeature.selectCompare)()).toBe('corrected');
  });

  it('with the treatment off a moved note is no pin: its own place moves, and the take is kept', () => {
    const { drag, place } = rig();
    TestBed.inject(Treating).setOn(false);
    drag(place(260), place(400), { ctrlKey: true });
    expect(part(now()).notes.find((n) => n.id === 0)).toMatchObject({ start: 400, take: { start: 260 } });
    expect(starts()[0]).toBe(400);
  });

  it('a rectangle selects in the roll and in the lane, with Shift more', () => {
    const { drag, row, v, y, picture } = rig();
    expect(drag([v.x(200), row(66)], [v.x(600), row(59)]).kind).toBe('box');
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 1]);
    const late = y(picture().before[2]);
    drag([v.x(900), late - 20], [v.x(1100), late + 20]);
    expect([...TestBed.inject(Selecting).ids()]).toEqual([2]);
    drag([v.x(200), row(66)], [v.x(600), row(59)], { shiftKey: true });
    expect([...TestBed.inject(Selecting).ids()].sort()).toEqual([0, 1, 2]);
  });

  it('the loop has a strip of its own: it is drawn, moved, and its edges dragged, right beside off-beat lines too', () => {
    const { drag, v } = rig({ quantize: { grid: parseGrid('1/8') } });
    const player = TestBed.inject(Player);
    expect(drag([v.x(482), 5], [v.x(1890), 5]).kind).toBe('loop');
    expect(player.loop()).toEqual({ from: 480, to: 1920 });
    expect(player.loopOn()).toBe(true);
    expect(settings().grid.swing).toBe(0.5);
    drag([v.x(1000), 5], [v.x(1480), 5]);
    expect(player.loop()).toEqual({ from: 960, to: 2400 });
    drag([v.x(2400), 5], [v.x(2880), 5]);
    expect(player.loop()).toEqual({ from: 960, to: 2880 });
  });

  it('the swing has handles on the off-beat lines, in the ruler’s lower edge alone', () => {
    const { at, drag, gestures, v } = rig({ quantize: { grid: parseGrid('1/8') } });
    const y = RULER_HEIGHT - 7;
    expect(gestures.under(at([v.x(480), y])).cursor).toBe('ew-resize');
    expect(gestures.under(at([v.x(960), y])).cursor).toBe('text');
    expect(drag([v.x(480), y], [v.x(640), y]).kind).toBe('swing');
    expect(settings().grid.swing).toBeCloseTo(0.665, 3);
    expect(settings().on).toBe(false);
    drag([v.x(638), y], [v.x(2000), y]);
    expect(settings().grid.swing).toBe(0.8);
    expect(drag([v.x(768), 38], [v.x(800), 38]).kind).toBe('seek');
    expect(TestBed.inject(Player).position()).toBe(800);
  });

  it('the edges of tolerance and reach are dragged in ms', () => {
    const { drag, v, y } = rig({
      quantize: { on: true, tolerance: { value: 5, unit: 'ms' }, reach: { value: 15, unit: 'ms' } },
    });
    expect(drag([v.x(3000), y(5)], [v.x(3000), y(8)]).kind).toBe('tolerance');
    expect(settings().tolerance).toEqual({ value: 8, unit: 'ms' });
    expect(drag([v.x(3000), y(-15)], [v.x(3000), y(-18)]).kind).toBe('reach');
    expect(settings().reach).toEqual({ value: 18, unit: 'ms' });
  });

  it('a mark in the lane goes along its scale of ms, onto the line where it is near', () => {
    const { drag, v, y, picture } = rig();
    const x = v.x(1000);
    // 40 ticks late are 20.8 ms; to 10 ms late are 19 ticks.
    drag([x, y(picture().before[2])], [x, y(10)]);
    expect(starts()[2]).toBe(979);
    drag([v.x(979), y(10)], [v.x(979), y(0.4)]);
    expect(starts()[2]).toBe(960);
  });

  it('with Alt or over the keys the picture is moved, and a key selects its notes', () => {
    const { at, gestures, drag, row, v } = rig();
    expect(drag([400, RULER_HEIGHT + 50], [300, RULER_HEIGHT + 50], { altKey: true }).kind).toBe('pan');
    expect(v.left()).toBeGreaterThan(0);
    expect(drag([10, 100], [10, 100]).kind).toBe('pan');
    gestures.under(at([10, row(60)])).click?.(at([10, row(60)]));
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 2]);
  });

  it('a press with Shift or Ctrl on a selected note takes it out of the selection', () => {
    const { at, gestures, place } = rig();
    const selecting = TestBed.inject(Selecting);
    const click = (tick: number, pitch: number, more: Partial<At> = {}) => {
      const to = at(place(tick, pitch), more);
      gestures.under(to).click?.(to);
    };
    click(260, 60);
    click(500, 64, { shiftKey: true });
    expect([...selecting.ids()]).toEqual([0, 1]);
    click(260, 60, { ctrlKey: true });
    expect([...selecting.ids()]).toEqual([1]);
    // Without a key it is selected alone, and beside it nothing is.
    click(260, 60);
    expect([...selecting.ids()]).toEqual([0]);
    click(2000, 70);
    expect([...selecting.ids()]).toEqual([]);
  });

  it('while own settings are open, bands and swing handles are theirs', () => {
    const { drag, y, v, store } = rig({ quantize: { on: true, tolerance: { value: 5, unit: 'ms' } } });
    const selecting = TestBed.inject(Selecting);
    selecting.select([0]);
    selecting.ownSettings();
    TestBed.inject(Treating).commit('Tolerance', { quantize: { tolerance: { value: 12, unit: 'ms' } } });
    expect(drag([v.x(3000), y(5)], [v.x(3000), y(9)]).kind).toBe('box');
    expect(drag([v.x(3000), y(12)], [v.x(3000), y(9)]).kind).toBe('tolerance');
    const own = () => part(now()).sets[0].treatment.quantize;
    expect(own().tolerance).toEqual({ value: 9, unit: 'ms' });
    expect(settings().tolerance).toEqual({ value: 5, unit: 'ms' });
    const { swing } = settings().grid;
    drag([v.x(240), RULER_HEIGHT - 7], [v.x(280), RULER_HEIGHT - 7]);
    expect(own().grid.swing).toBeGreaterThan(0.55);
    expect(settings().grid.swing).toBe(swing);
    store.dispatch(DeskActions.undo());
  });

  it('a loop without a range takes the selection, else the bars in view', () => {
    const { v } = rig();
    const looping = TestBed.inject(Looping);
    const player = TestBed.inject(Player);
    TestBed.inject(Selecting).select([1, 2]);
    looping.toggle();
    expect(player.loopOn()).toBe(true);
    expect(player.loop()).toEqual({ from: 960, to: 1920 });
    looping.toggle();
    expect(player.loopOn()).toBe(false);
    player.reset();
    TestBed.inject(Selecting).select([]);
    v.end.set(50_000);
    v.scale.set(960 / 9000);
    v.left.set(3800);
    looping.toggle();
    expect(player.loop()).toEqual({ from: 3840, to: 11_520 });
    expect(looping.text()).toBe('bars 2–3');
  });

  it('a loop in words counts bars across a change of meter', () => {
    const meter = [
      { tick: 0, order: 0, numerator: 4, denominator: 4, clocks: 24, thirtySeconds: 8 },
      { tick: 3840, order: 1, numerator: 3, denominator: 4, clocks: 24, thirtySeconds: 8 },
    ];
    open(song([note(0, 0), note(1, 9000)], {}, { meter }));
    const player = TestBed.inject(Player);
    const looping = TestBed.inject(Looping);
    player.loop.set({ from: 0, to: 3840 + 2 * 2880 });
    expect(looping.text()).toBe('bars 1–3');
    player.loop.set({ from: 3840, to: 3840 + 2880 });
    expect(looping.text()).toBe('bar 2');
    player.loop.set({ from: 960, to: 4800 });
    expect(looping.text()).toBe('1.2–2.2');
  });
});
