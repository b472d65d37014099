import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Analysis } from '@early-sparrow/core/insight';
import { analysePart } from '@early-sparrow/core/insight';
import type { Song } from '@early-sparrow/core/song';
import { treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, type Stages } from '../../core/test/build';
import { Analyst } from '../src/desk/analyst';
import { laneY } from '../src/desk/draw-lane';
import { Gestures, type Drag } from '../src/desk/gestures';
import { Messages } from '../src/desk/messages';
import { pictureOf } from '../src/desk/picture';
import { Selecting } from '../src/desk/selecting';
import { Treating } from '../src/desk/treating';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../src/desk/viewport';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/analyst', () => ({ Analyst: class {} }));

/** An analysis that is there at once, in place of the worker. */
class ReadyAnalyst {
  private readonly store = TestBed.inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  readonly progress = signal(null);
  readonly analysis = computed((): Analysis | null => {
    const s = this.song();
    return s ? analysePart(part(s), s) : null;
  });
}

function open(s: Song): Store {
  TestBed.configureTestingModule({
    providers: [
      provideDeskStore(),
      Treating,
      Selecting,
      Gestures,
      Viewport,
      { provide: Analyst, useClass: ReadyAnalyst },
    ],
  });
  const store = TestBed.inject(Store);
  store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(s) }));
  return store;
}

const now = () => TestBed.inject(Treating).song() as Song;
const starts = () => [...treatPart(part(now()), now()).start];
const settings = () => part(now()).treatment.quantize;

describe('gestures', () => {
  const view = () => TestBed.inject(Viewport);

  function rig(stages: Stages = {}) {
    open(song([note(0, 260, { pitch: 60 }), note(1, 500, { pitch: 64 }), note(2, 1000, { pitch: 60 })], stages));
    const v = view();
    v.width.set(KEYS_WIDTH + 960);
    v.height.set(600);
    v.laneHeight.set(200);
    v.end.set(7680);
    v.fitPitches(ALL_PITCHES, 60, 64, 20);
    v.scale.set(0.5);
    v.left.set(0);
    const gestures = TestBed.inject(Gestures);
    const picture = computed(() => pictureOf(part(now()), now()));
    gestures.attach({ song: computed(now), picture, corrected: signal(true) });
    const event = (x: number, y: number, more: Partial<PointerEvent> = {}) =>
      ({ offsetX: x, offsetY: y, button: 0, altKey: false, ctrlKey: false, metaKey: false, ...more }) as PointerEvent;
    /** Presses, drags and lets go, as the view does. */
    const drag = (from: [number, number], to: [number, number], more: Partial<PointerEvent> = {}) => {
      const under = gestures.noteUnder(...from);
      const kind = gestures.dragKind(event(...from, more), under);
      const d: Drag = { x: from[0], y: from[1], kind, note: under, lastX: from[0], lastY: from[1], moved: true };
      gestures.dragTo(d, event(...to, more), false);
      gestures.dragTo(d, event(...to, more), true);
      return kind;
    };
    const row = (pitch: number) => v.y(pitch) + 10;
    return { gestures, drag, row, v, picture };
  }

  it('a note moves with the pointer, snaps to a near line, and does not with Ctrl', () => {
    const { drag, row, v } = rig();
    const at = (tick: number): [number, number] => [v.x(tick) + 3, row(60)];
    expect(drag(at(260), at(470))).toBe('note');
    expect(starts()[0]).toBe(480);
    drag(at(480), at(470), { ctrlKey: true });
    expect(starts()[0]).toBe(470);
    drag(at(470), at(590));
    expect(starts()[0]).toBe(590);
  });

  it('a rectangle selects in the roll and in the lane', () => {
    const { drag, row, v, picture } = rig();
    expect(drag([v.x(200), row(66)], [v.x(600), row(59)])).toBe('box');
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 1]);
    const late = laneY({ view: v }, picture(), picture().before[2]);
    drag([v.x(900), late - 20], [v.x(1100), late + 20]);
    expect([...TestBed.inject(Selecting).ids()]).toEqual([2]);
  });

  it('a drag in the ruler makes a loop on lines, or swing where it takes an off-beat line', () => {
    const { drag, v } = rig({ quantize: { grid: parseGrid('1/8') } });
    expect(drag([v.x(120), 8], [v.x(1890), 8])).toBe('ruler');
    expect(TestBed.inject(Player).loop()).toEqual({ from: 0, to: 1920 });
    expect(TestBed.inject(Player).loopOn()).toBe(true);
    expect(drag([v.x(480), 8], [v.x(640), 8])).toBe('swing');
    expect(settings().grid.swing).toBeCloseTo(0.665, 3);
    expect(settings().on).toBe(false);
    drag([v.x(638), 8], [v.x(2000), 8]);
    expect(settings().grid.swing).toBe(0.8);
  });

  it('the edges of tolerance and reach are dragged in ms', () => {
    const { drag, v, picture } = rig({
      quantize: { on: true, tolerance: { value: 5, unit: 'ms' }, reach: { value: 15, unit: 'ms' } },
    });
    const y = (ms: number) => laneY({ view: v }, picture(), ms);
    expect(drag([v.x(3000), y(5)], [v.x(3000), y(8)])).toBe('tolerance');
    expect(settings().tolerance).toEqual({ value: 8, unit: 'ms' });
    expect(drag([v.x(3000), y(-15)], [v.x(3000), y(-18)])).toBe('reach');
    expect(settings().reach).toEqual({ value: 18, unit: 'ms' });
  });

  it('with Alt or over the keys the picture is moved, and a key selects its notes', () => {
    const { gestures, drag, row, v } = rig();
    expect(drag([400, RULER_HEIGHT + 50], [300, RULER_HEIGHT + 50], { altKey: true })).toBe('scroll');
    expect(v.left()).toBeGreaterThan(0);
    expect(gestures.dragKind({ offsetX: 10, offsetY: 100, button: 0 } as PointerEvent, -1)).toBe('scroll');
    gestures.selectKey(row(60));
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 2]);
  });
});

describe('messages', () => {
  async function shown(s: Song): Promise<{ text: string; press: (name: string) => Promise<void> }> {
    open(s);
    const fixture = TestBed.createComponent(Messages);
    await fixture.whenStable();
    const element = fixture.nativeElement as HTMLElement;
    return {
      get text() {
        return element.textContent?.replace(/\s+/g, ' ').trim() ?? '';
      },
      press: async (name) => {
        [...element.querySelectorAll('button')].find((b) => b.textContent?.trim() === name)?.click();
        await fixture.whenStable();
      },
    };
  }
  const sixteenths = Array.from({ length: 64 }, (_, i) =>
    note(i, 3840 + i * 240 + ((i * 7) % 5), { pitch: 50 + (i % 9) }),
  );

  it('a grid that is too coarse: names the merges, shows them, and offers one that fits', async () => {
    const strip = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/4') } }));
    expect(strip.text).toMatch(/47 chords merge with the one before on 1\/4/);
    await strip.press('Show');
    expect(TestBed.inject(Selecting).count()).toBe(47);
    await strip.press('Try 1/16');
    expect(settings().grid.value).toBe(16);
    expect(strip.text).not.toContain('merge');
  });

  it('triplets under a straight grid', async () => {
    const triplets = Array.from({ length: 60 }, (_, i) =>
      note(i, 3840 + i * 320 + ((i * 7) % 5), { pitch: 50 + (i % 9) }),
    );
    const strip = await shown(song(triplets, { quantize: { on: true, grid: parseGrid('1/32') } }));
    expect(strip.text).toContain('The playing has triplets');
    await strip.press('Try 1/8T');
    expect(strip.text).toBe('');
  });

  it('doubles: the softer is dropped only when asked', async () => {
    const doubled = [...sixteenths, note(90, 3840 + 20, { pitch: 50, velocity: 20 })];
    const strip = await shown(song(doubled, { quantize: { on: true, grid: parseGrid('1/16'), chordMs: 0 } }));
    await strip.press('Hide');
    expect(strip.text).toContain('same pitch');
    await strip.press('Drop the softer');
    expect(part(now()).treatment.settle.dropDoubles).toBe(true);
  });

  it('notes that become very short', async () => {
    const strip = await shown(song(sixteenths, { lengths: { on: true, mode: 'fixed', fixed: 1 / 256, min: 0 } }));
    expect(strip.text).toContain('64 notes become very short');
    await strip.press('Keep lengths');
    expect(strip.text).toBe('');
  });

  it('nothing where nothing is wrong', async () => {
    const strip = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/16') } }));
    expect(strip.text).toBe('');
  });
});
