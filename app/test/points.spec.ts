import { TestBed } from '@angular/core/testing';
import { type Store } from '@ngrx/store';
import type { Edit } from '@early-sparrow/core/edit';
import { addEvent } from '@early-sparrow/core/shape';
import { newPart, type PartEvent, type Song } from '@early-sparrow/core/song';
import { note, song } from '../../core/test/build';
import { ControlHead } from '../src/desk/shape/control-head';
import { BendLane } from '../src/desk/shape/control-lanes';
import { Points } from '../src/desk/shape/points';
import type { At } from '../src/desk/kit/pointer';
import { KEYS_WIDTH, Viewport } from '../src/desk/kit/viewport';
import { DeskActions } from '../src/state/desk.feature';
import { now, open } from './desk-rig';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

const bend = (tick: number, value: number): PartEvent => ({ type: 'bend', tick, channel: 0, value });

/** Two parts of one track, each with a note and bends that end at rest. */
function twoParts(): Song {
  const s = song([]);
  const parts = [0, 3840].map((start, i) =>
    newPart(`p${i}`, `Part ${i}`, start, start + 3840, {
      notes: [note(i, start + 100)],
      events: [bend(start + 500, 8000), bend(start + 1000, 6000), bend(start + 2000, 0), bend(start + 2500, 0)],
    }),
  );
  return { ...s, nextId: 2, tracks: [{ ...s.tracks[0], parts }] };
}

describe('points of several parts', () => {
  let store: Store;
  let before: Song;
  let points: Points;
  const values = () =>
    now().tracks[0].parts.map((p) => p.events.map((e) => [e.tick - p.start, 'value' in e ? e.value : 0]));
  const undo = () => store.dispatch(DeskActions.undo());

  const lanes = () => {
    const view = TestBed.inject(Viewport);
    view.width.set(KEYS_WIDTH + 800);
    view.height.set(600);
    view.scale.set(0.1);
    view.left.set(0);
    const lane = TestBed.inject(BendLane);
    const keys = { altKey: false, ctrlKey: false, metaKey: false, shiftKey: false, button: 0 };
    const at = (tick: number, offsetY: number): At => ({ offsetX: view.x(tick), offsetY, ...keys });
    const frame = { top: 400, height: 90 };
    /** Where the point of a tick lies: there the pointer is another one than beside all points. */
    const heightOf = (tick: number) => {
      const heights = Array.from({ length: frame.height }, (_, k) => frame.top + k);
      const there = heights.filter(
        (y) => lane.under(at(tick, y), frame)?.cursor !== lane.under(at(3000, y), frame)?.cursor,
      );
      return there[there.length >> 1];
    };
    return { lane, frame, at, heightOf };
  };

  beforeEach(() => {
    store = open(twoParts());
    before = now();
    points = TestBed.inject(Points);
    const high = now().tracks[0].parts.flatMap((p) => p.events.slice(0, 2));
    points.select({ type: 'bend', channel: 0 }, high);
  });

  it('are erased as one step', () => {
    points.erase();
    expect(values()[0]).toEqual([
      [2000, 0],
      [2500, 0],
    ]);
    expect(values()[1]).toEqual(values()[0]);
    undo();
    expect(now()).toEqual(before);
  });

  it('are nudged as one step, and stay selected', () => {
    points.nudge(10, 0);
    points.nudge(10, 0);
    expect(values()[1].slice(0, 2)).toEqual([
      [520, 8000],
      [1020, 6000],
    ]);
    expect(values()[0]).toEqual(values()[1]);
    expect(points.chosen().size).toBe(4);
    undo();
    expect(now()).toEqual(before);
  });

  it('are dragged together, as one step', () => {
    const { lane, frame, at, heightOf } = lanes();
    const y = heightOf(500);
    const gesture = lane.under(at(500, y), frame)?.press?.(at(500, y));
    gesture?.move(at(700, y));
    gesture?.drop(at(700, y));
    const by = values()[0][0][0] - 500;
    expect(by).toBeGreaterThan(100);
    expect(values().map((v) => v.map(([tick]) => tick))).toEqual([
      [500 + by, 1000 + by, 2000, 2500],
      [500 + by, 1000 + by, 2000, 2500],
    ]);
    expect(points.chosen().size).toBe(4);
    undo();
    expect(now()).toEqual(before);
  });

  it('are thinned together, as one step', () => {
    const control = { type: 'bend', channel: 0 } as const;
    for (const id of ['p0', 'p1']) {
      const part = now().tracks[0].parts.find((p) => p.id === id)!;
      // On the line between its neighbours.
      store.dispatch(
        DeskActions.edit({ edit: addEvent(part, control, { tick: part.start + 750, value: 7000 }) as Edit }),
      );
    }
    const full = now();
    points.select(
      control,
      full.tracks[0].parts.flatMap((p) => p.events),
    );
    const head = TestBed.createComponent(ControlHead);
    head.componentRef.setInput('kind', 'bend');
    head.detectChanges();
    (head.nativeElement as HTMLElement).querySelector<HTMLElement>('[title^="Remove points"]')?.click();
    expect(values().map((v) => v.map(([tick]) => tick))).toEqual([
      [500, 1000, 2000, 2500],
      [500, 1000, 2000, 2500],
    ]);
    undo();
    expect(now()).toEqual(full);
  });

  it('go with a quick sweep of the eraser, as one step', () => {
    const { lane, frame, at, heightOf } = lanes();
    const y = heightOf(2000);
    const sweep = lane.erasing(at(2250, y), frame);
    sweep.move(at(7000, y));
    sweep.drop(at(7000, y));
    // The second part's wheel comes to rest at its end, where nothing else lets it go.
    expect(values().map((v) => v.map(([tick]) => tick))).toEqual([
      [500, 1000, 2000],
      [500, 1000, 3840],
    ]);
    undo();
    expect(now()).toEqual(before);
  });
});
