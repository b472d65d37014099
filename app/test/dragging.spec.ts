import { TestBed } from '@angular/core/testing';
import { newPart, newTrack } from '@early-sparrow/core/song';
import { note, part, song } from '../../core/test/build';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../src/desk/kit/viewport';
import { PartsGesture } from '../src/desk/arrange/parts-gesture';
import { arrangeRoom } from '../src/desk/arrange/room';
import { SongRows } from '../src/desk/arrange/song-rows';
import { ChosenParts } from '../src/desk/hand/chosen-parts';
import { Selecting } from '../src/desk/hand/selecting';
import { Pressing } from '../src/desk/picture/pressing';
import { Player } from '../src/sound/player';
import { now, open } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

describe('a drag while the picture moves', () => {
  let view: Viewport;
  let pressing: Pressing;
  const event = ([x, y]: readonly [number, number], more: Partial<PointerEvent> = {}) =>
    ({ offsetX: x, offsetY: y, pointerId: 1, pointerType: 'mouse', button: 0, timeStamp: 0, ...more }) as PointerEvent;
  const down = (at: readonly [number, number], more = {}) => pressing.down(event(at, more), () => undefined);
  const move = (at: readonly [number, number]) => pressing.move(event(at));
  const up = (at: readonly [number, number]) => pressing.up(event(at));
  const place = (tick: number, pitch = 60): [number, number] => [view.x(tick) + 4, view.y(pitch) + 10];
  const start = (id: number) => part(now()).notes.find((n) => n.id === id)?.start;
  const pitch = (id: number) => part(now()).notes.find((n) => n.id === id)?.pitch;
  const selected = () => [...TestBed.inject(Selecting).ids()].sort((a, b) => a - b);

  beforeEach(() => {
    jest.useFakeTimers({ now: 0 });
    open(song([0, 1, 2, 3].map((id) => note(id, 250 + id * 1900, { pitch: 60 + id }))));
    view = TestBed.inject(Viewport);
    view.width.set(KEYS_WIDTH + 960);
    view.height.set(600);
    view.end.set(7680);
    view.fitPitches(ALL_PITCHES, 60, 64, 20);
    view.scale.set(0.5);
    view.left.set(0);
    pressing = TestBed.inject(Pressing);
  });
  afterEach(() => jest.useRealTimers());

  it('takes the note along where it is scrolled or zoomed', () => {
    const from = place(250);
    const to: [number, number] = [from[0] + 45, from[1]];
    down(from);
    move(to);
    view.scroll(100, 0);
    pressing.scrolled();
    up(to);
    expect(start(0)).toBe(250 + (45 + 100) / 0.5);

    view.left.set(2000);
    const again = place(2150, 61);
    down(again);
    move([again[0] + 45, again[1]]);
    view.zoom(again[0] + 45, 0.5);
    up([again[0] + 45, again[1]]);
    expect(start(1)).toBe(2150 + 45 / 0.5);
  });

  it('takes it along over the rows too', () => {
    const from = place(250);
    down(from);
    move([from[0], from[1] - 20]);
    view.scroll(0, -60);
    up([from[0], from[1] - 20]);
    expect([start(0), pitch(0)]).toEqual([250, 64]);
  });

  it('frames all that lies between where it began and where it ends', () => {
    down([view.x(100), view.y(66)]);
    move([view.x(1500), view.y(58)]);
    view.scroll(2000, 0);
    up([view.x(6500), view.y(58)]);
    expect(selected()).toEqual([0, 1, 2, 3]);
  });

  it('scrolls it along over the right edge, faster farther out, until it is let go', () => {
    const y = view.y(66);
    down([view.x(100), y]);
    move([view.width() - 2, y + 180]);
    jest.advanceTimersByTime(500);
    const slow = view.left();
    expect(slow).toBeGreaterThan(100);
    expect(slow).toBeLessThan(400);
    move([view.width() + 60, y + 180]);
    jest.advanceTimersByTime(500);
    expect(view.left() - slow).toBeGreaterThan(2 * slow);
    jest.advanceTimersByTime(60_000);
    const { left } = view;
    const end = left();
    up([view.width() + 60, y + 180]);
    expect(selected()).toEqual([0, 1, 2, 3]);
    view.left.set(1000);
    jest.advanceTimersByTime(1000);
    expect([end > 6000, left()]).toEqual([true, 1000]);
  });

  it('scrolls a note along, which stays under the pointer, and not once it is back inside', () => {
    view.left.set(3000);
    const from = place(4050, 62);
    down(from);
    move([KEYS_WIDTH - 20, from[1]]);
    jest.advanceTimersByTime(400);
    const inside: [number, number] = [KEYS_WIDTH + 200, from[1]];
    move(inside);
    jest.advanceTimersByTime(100);
    const left = view.left();
    jest.advanceTimersByTime(400);
    expect(left).toBeLessThan(2900);
    expect(view.left()).toBe(left);
    up(inside);
    expect(Math.abs((start(2) ?? 0) + 4 / 0.5 - view.tick(inside[0]))).toBeLessThanOrEqual(1);
  });

  it('scrolls no drag that moves the picture itself, and none that was taken back', () => {
    view.left.set(3000);
    down([500, RULER_HEIGHT + 30], { button: 1 });
    move([20, RULER_HEIGHT + 30]);
    const panned = view.left();
    jest.advanceTimersByTime(500);
    expect(view.left()).toBe(panned);
    up([20, RULER_HEIGHT + 30]);

    down([500, 5]);
    move([view.width() + 40, 5]);
    jest.advanceTimersByTime(100);
    pressing.cancel();
    const left = view.left();
    expect(left).toBeGreaterThan(panned);
    jest.advanceTimersByTime(500);
    expect(view.left()).toBe(left);
    expect(TestBed.inject(Player).loop()).toEqual({ from: 0, to: 0 });
  });
});

it('a frame in the song view holds the tracks between where it began and where it ends, if they are scrolled meanwhile', () => {
  const tracks = Array.from({ length: 30 }, (_, i) =>
    newTrack(`t${i}`, `Track ${i}`, { parts: [newPart(`p${i}`, 'Part', 1920, 3840, {})] }),
  );
  TestBed.configureTestingModule({ providers: [arrangeRoom] });
  open({ ...song([]), tracks });
  const rows = TestBed.inject(SongRows);
  rows.width.set(800);
  rows.height.set(300);
  TestBed.inject(Viewport).end.set(3840);
  const at = (x: number, row: number) => ({
    ...{ offsetX: x, offsetY: rows.y(row) + 2, button: 0 },
    ...{ altKey: false, ctrlKey: false, metaKey: false, shiftKey: false },
  });
  const gesture = TestBed.inject(PartsGesture).begin(at(20, 2), () => undefined);
  gesture?.move(at(700, 6));
  rows.scroll(rows.row() * 10);
  gesture?.move(at(700, 14));
  gesture?.drop(at(700, 14));
  const chosen = TestBed.inject(ChosenParts).ids();
  expect(chosen).toEqual(tracks.slice(2, 15).map((t) => t.parts[0].id));
});
