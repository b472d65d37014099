import { computed, signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { parseGrid } from '@early-sparrow/core/grid';
import type { Analysis } from '@early-sparrow/core/insight';
import { analysePart } from '@early-sparrow/core/insight';
import type { Song } from '@early-sparrow/core/song';
import { reportPart, treatPart } from '@early-sparrow/core/treatment';
import { note, part, song, type Stages } from '../../core/test/build';
import { Analyst } from '../src/desk/fits/analyst';
import { laneY } from '../src/desk/picture/draw-lane';
import { Gestures, type At } from '../src/desk/selection/gestures';
import { Leans } from '../src/desk/fits/leans';
import { Looping } from '../src/desk/listening/looping';
import { Messages } from '../src/desk/fits/messages';
import { pictureOf } from '../src/desk/picture/picture';
import { Selecting } from '../src/desk/selection/selecting';
import { Treating } from '../src/desk/treatment/treating';
import { ALL_PITCHES, KEYS_WIDTH, RULER_HEIGHT, Viewport } from '../src/desk/picture/viewport';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

// The real one starts a worker, which there is none of here.
jest.mock('../src/desk/fits/analyst', () => ({ Analyst: class {} }));

/** An analysis that is there at once, in place of the worker. */
class ReadyAnalyst {
  private readonly store = TestBed.inject(Store);
  private readonly song = this.store.selectSignal(deskFeature.selectSong);
  readonly progress = signal(null);
  readonly complete = signal(true);
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
      Leans,
      Looping,
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
    const store = TestBed.inject(Store);
    const shown = store.selectSignal(deskFeature.selectShownSong);
    const compare = store.selectSignal(deskFeature.selectCompare);
    const shownNow = () => shown() as Song;
    const picture = computed(() => pictureOf(part(shownNow()), shownNow()));
    gestures.attach({ song: computed(shownNow), picture, corrected: computed(() => compare() === 'corrected') });
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
    return { at, gestures, drag, row, v, picture, store, shownNow, place };
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
    expect(starts()[0]).toBe(590);
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
    expect(r.gestures.box()).toBeNull();
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
    const { at, place, store, v } = rig({ quantize: { on: true, grid: parseGrid('1/4') } });
    store.dispatch(DeskActions.compare({ which: 'played' }));
    const gesture = TestBed.inject(Gestures).begin(at(place(500, 64), { ctrlKey: true }));
    gesture.move(at(place(600, 64), { ctrlKey: true }));
    // On its way a ghost of it follows the pointer, since the take's own picture stays.
    expect(TestBed.inject(Gestures).box()?.x).toBeCloseTo(v.x(600), 6);
    gesture.drop(at(place(600, 64), { ctrlKey: true }));
    expect(TestBed.inject(Gestures).box()).toBeNull();
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
    const { drag, row, v, picture } = rig();
    expect(drag([v.x(200), row(66)], [v.x(600), row(59)]).kind).toBe('box');
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 1]);
    const late = laneY({ view: v }, picture(), picture().before[2]);
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
    const { drag, gestures, v } = rig({ quantize: { grid: parseGrid('1/8') } });
    const y = RULER_HEIGHT - 7;
    expect(gestures.cursor(v.x(480), y)).toBe('ew-resize');
    expect(gestures.cursor(v.x(960), y)).toBe('text');
    expect(drag([v.x(480), y], [v.x(640), y]).kind).toBe('swing');
    expect(settings().grid.swing).toBeCloseTo(0.665, 3);
    expect(settings().on).toBe(false);
    drag([v.x(638), y], [v.x(2000), y]);
    expect(settings().grid.swing).toBe(0.8);
    expect(drag([v.x(768), 20], [v.x(800), 20]).kind).toBe('seek');
    expect(TestBed.inject(Player).position()).toBe(800);
  });

  it('the edges of tolerance and reach are dragged in ms', () => {
    const { drag, v, picture } = rig({
      quantize: { on: true, tolerance: { value: 5, unit: 'ms' }, reach: { value: 15, unit: 'ms' } },
    });
    const y = (ms: number) => laneY({ view: v }, picture(), ms);
    expect(drag([v.x(3000), y(5)], [v.x(3000), y(8)]).kind).toBe('tolerance');
    expect(settings().tolerance).toEqual({ value: 8, unit: 'ms' });
    expect(drag([v.x(3000), y(-15)], [v.x(3000), y(-18)]).kind).toBe('reach');
    expect(settings().reach).toEqual({ value: 18, unit: 'ms' });
  });

  it('a mark in the lane goes along its scale of ms, onto the line where it is near', () => {
    const { drag, v, picture } = rig();
    const y = (ms: number) => laneY({ view: v }, picture(), ms);
    const x = v.x(1000);
    // 40 ticks late are 20.8 ms; to 10 ms late are 19 ticks.
    drag([x, y(picture().before[2])], [x, y(10)]);
    expect(starts()[2]).toBe(979);
    drag([v.x(979), y(10)], [v.x(979), y(0.4)]);
    expect(starts()[2]).toBe(960);
  });

  it('with Alt or over the keys the picture is moved, and a key selects its notes', () => {
    const { gestures, drag, row, v } = rig();
    expect(drag([400, RULER_HEIGHT + 50], [300, RULER_HEIGHT + 50], { altKey: true }).kind).toBe('pan');
    expect(v.left()).toBeGreaterThan(0);
    expect(drag([10, 100], [10, 100]).kind).toBe('pan');
    gestures.selectKey(row(60));
    expect([...TestBed.inject(Selecting).ids()]).toEqual([0, 2]);
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
    expect(strip.text).toContain('One note comes to start with a louder one of the same pitch');
    await strip.press('Drop the softer');
    expect(part(now()).treatment.settle.dropDoubles).toBe(true);
    expect(reportPart(part(now()), now())).toMatchObject({ doubles: 1, dropped: 1 });
  });

  it('doubles are dropped with own settings open too, and each note counts once', async () => {
    const own = { kind: 'own', set: 'own1' } as const;
    const tripled = [3840 + 20, 3840 + 30].map((at, i) =>
      note(90 + i, at, { pitch: 50, velocity: 20 + i, exception: own }),
    );
    const base = song([...sixteenths, ...tripled], { quantize: { on: true, grid: parseGrid('1/16'), chordMs: 0 } });
    const [track] = base.tracks;
    const sets = [{ id: 'own1', name: 'own settings', treatment: part(base).treatment }];
    const strip = await shown({ ...base, tracks: [{ ...track, parts: [{ ...part(base), sets }] }] });
    TestBed.inject(Store).dispatch(DeskActions.selectSet({ setId: 'own1' }));
    for (let i = 0; i < 3 && !strip.text.includes('same pitch'); i++) await strip.press('Hide');
    expect(strip.text).toContain('2 notes come to start with a louder one');
    await strip.press('Drop the softer');
    expect(part(now()).treatment.settle.dropDoubles).toBe(true);
    expect(reportPart(part(now()), now()).dropped).toBe(2);
  });

  it('a finer grid that fits is not called coarser than the playing', async () => {
    const fine = Array.from({ length: 120 }, (_, i) => note(i, 3840 + i * 60, { pitch: 50 + (i % 9), length: 40 }));
    const strip = await shown(song(fine, { quantize: { on: true, grid: parseGrid('1/16') } }));
    expect(strip.text).not.toContain('finer than the playing');
    TestBed.resetTestingModule();
    const coarse = await shown(song(sixteenths, { quantize: { on: true, grid: parseGrid('1/64') } }));
    expect(coarse.text).toContain('The lines of 1/64 are finer than the playing');
    await coarse.press('Try 1/16');
    expect(settings().grid.value).toBe(16);
  });

  it('a first chord before its bar goes there as a whole', async () => {
    const early = [note(70, 3800, { pitch: 40 }), note(71, 3810, { pitch: 44 }), note(72, 3850, { pitch: 47 })];
    const base = song([...early, ...sixteenths.slice(4)]);
    const [track] = base.tracks;
    const strip = await shown({ ...base, tracks: [{ ...track, parts: [{ ...part(base), start: 3840 }] }] });
    expect(strip.text).toMatch(/First chord, of 3 notes, 21 ms before its bar/);
    await strip.press('Move it to the bar');
    expect(starts().slice(0, 3)).toEqual([3840, 3850, 3890]);
    expect(strip.text).not.toContain('before its bar');
  });

  it('notes that a push would put before the song are told of', async () => {
    const strip = await shown(
      song([note(0, 0), note(1, 10, { pitch: 64 }), note(2, 960)], {
        push: { on: true, amount: { value: -20, unit: 'ms' } },
      }),
    );
    expect(strip.text).toContain('2 notes would start before the song: they wait at its start');
    expect(reportPart(part(now()), now()).held).toBe(2);
  });

  it('a song beside its bars is told of once, and one step takes it from all tracks', async () => {
    const base = song([]);
    const [track] = base.tracks;
    const late = (t: number) =>
      Array.from({ length: 16 }, (_, i) => note(t * 100 + i, 3840 + i * 960 + 100 + (i % 3), { pitch: 40 + t }));
    const tracks = [0, 1, 2].map((t) => ({
      ...track,
      id: `t${t}`,
      parts: [{ ...part(base), id: `p${t}`, notes: late(t) }],
    }));
    const strip = await shown({ ...base, tracks });
    expect(strip.text).toContain('Most tracks lie 53 ms behind the bars');
    expect(TestBed.inject(Leans).part()).toBeNull();
    await strip.press('Take it from all tracks');
    expect(now().tracks.map((t) => t.parts[0].treatment.lag)).toEqual(
      [0, 1, 2].map(() => ({ on: true, amount: { value: expect.closeTo(52.6, 0), unit: 'ms' } })),
    );
    expect(strip.text).not.toContain('Most tracks');
  });

  it('a part’s lean goes once the treatment has dealt with it', async () => {
    const late = song(sixteenths.map((n) => ({ ...n, start: n.start + 40 })));
    open(late);
    const leans = TestBed.inject(Leans);
    expect(leans.part()).toBeCloseTo(21.9, 0);
    TestBed.inject(Treating).commit('Quantize', { quantize: { on: true } });
    expect(leans.part()).toBeNull();
    TestBed.inject(Treating).commit('Strength', { quantize: { strength: 0.5 } });
    expect(leans.part()).toBeCloseTo(21.9, 0);
    leans.takeFromPart();
    expect(part(now()).treatment.lag.amount.value).toBeCloseTo(21.9, 0);
    expect(leans.part()).toBeNull();
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
