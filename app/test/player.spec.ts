import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import type { Output, Sounding } from '@early-sparrow/core/sound';
import { note, song, treatment } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Player } from '../src/sound/player';
import { DeskActions } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

/** A device whose clock is turned by hand; it writes down what it is told. */
class Device implements Output {
  static last: Device | null = null;
  static refuses = false;
  time = 10;
  readonly struck: { track: number; pitch: number; at: number }[] = [];
  clicks = 0;
  silenced = 0;
  constructor() {
    Device.last = this;
  }
  wake(): Promise<void> {
    return Device.refuses ? Promise.reject(new Error('no sound')) : Promise.resolve();
  }
  mix(): void {
    // The mix is the browser's.
  }
  now(): number {
    return this.time;
  }
  level(): number {
    return -20;
  }
  note(track: number, { pitch }: Sounding, at: number): void {
    this.struck.push({ track, pitch, at });
  }
  click(): void {
    this.clicks++;
  }
  silence(): void {
    this.silenced++;
  }
}
jest.mock('../src/sound/audio-output', () => ({ AudioOutput: jest.fn(() => new Device()) }));

describe('the player', () => {
  let player: Player;
  let store: Store;
  const device = () => Device.last ?? new Device();
  /** Lets so many seconds go by, a turn of the scheduler at a time. */
  const run = (seconds: number) => {
    for (const end = device().time + seconds; device().time < end; device().time += 0.025) jest.advanceTimersByTime(25);
  };
  /** Twenty eighths of two tracks, played 40 ticks late. */
  const two = () => {
    const one = song(
      Array.from({ length: 20 }, (_, i) => note(i, i * 480 + 40, { length: 200 })),
      { quantize: { on: true } },
    );
    const [track] = one.tracks;
    const [part] = track.parts;
    const notes = part.notes.map((n) => ({ ...n, id: n.id + 50, pitch: 72 }));
    const other = {
      ...track,
      id: 't2',
      parts: [{ ...part, id: 'p2', notes }],
      origin: { source: 1, name: 'x', end: 0 },
    };
    return { ...one, tracks: [track, other], nextId: 100 };
  };

  beforeEach(() => {
    jest.useFakeTimers({ doNotFake: ['queueMicrotask'] });
    Device.refuses = false;
    TestBed.configureTestingModule({ providers: [provideDeskStore()] });
    store = TestBed.inject(Store);
    player = TestBed.inject(Player);
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(two()) }));
  });
  afterEach(() => {
    player.reset();
    jest.useRealTimers();
  });

  it('plays the corrected notes in time from the playhead on, and stops without one more', async () => {
    player.seek(960);
    await player.play();
    run(1);
    const first = device().struck.filter((n) => n.track === 0);
    expect(first.slice(1, 4).map((n, i) => n.at - first[i].at)).toEqual(
      [0.25, 0.25, 0.25].map((t) => expect.closeTo(t, 6) as number),
    );
    expect(player.position()).toBeGreaterThan(960);
    player.stop();
    const { length } = device().struck;
    run(1);
    expect(device().struck).toHaveLength(length);
    expect(device().silenced).toBeGreaterThan(0);
    expect(player.playing()).toBe(false);
  });

  it('leaves out muted tracks, and all others beside one that is solo', async () => {
    await player.play();
    const mix = (track: string, change: object) =>
      store.dispatch(
        DeskActions.edit({ edit: { kind: 'mix', name: 'x', track, mute: false, solo: false, level: 0.8, ...change } }),
      );
    mix('t2', { mute: true });
    run(0.3);
    device().struck.splice(0);
    run(1);
    expect(new Set(device().struck.map((n) => n.pitch))).toEqual(new Set([60]));
    mix('t2', { solo: true });
    run(0.3);
    device().struck.splice(0);
    run(1);
    expect(new Set(device().struck.map((n) => n.pitch))).toEqual(new Set([72]));
  });

  it('plays what is tried, and the side that is chosen, from the next turn on', async () => {
    await player.play();
    run(0.2);
    const push = treatment({ quantize: { on: true }, push: { on: true, amount: { value: 100, unit: 'ms' } } });
    const before =
      device()
        .struck.filter((n) => n.track === 0)
        .at(-1)?.at ?? 0;
    store.dispatch(DeskActions.preview({ edit: { kind: 'treatment', name: 'x', part: 'p', treatment: push } }));
    run(0.6);
    const next = device().struck.find((n) => n.track === 0 && n.at > before + 0.01)?.at ?? 0;
    expect(next - before).toBeCloseTo(0.35, 6);
    store.dispatch(DeskActions.compare({ which: 'played' }));
    expect(player.heard()).toBe('played');
  });

  it('clicks on the beats while that is on', async () => {
    player.clickOn.set(true);
    await player.play();
    run(1.6);
    expect(device().clicks).toBeGreaterThanOrEqual(3);
    expect(device().clicks).toBeLessThanOrEqual(5);
  });

  it('goes round a loop', async () => {
    player.loop.set({ from: 960, to: 1920 });
    player.loopOn.set(true);
    await player.play();
    run(2.2);
    // Two eighths a round of half a second.
    expect(device().struck.filter((n) => n.track === 0).length).toBeGreaterThanOrEqual(8);
    expect(player.position()).toBeGreaterThanOrEqual(960 - 1);
    expect(player.position()).toBeLessThan(1920);
  });

  it('says so where the browser gives no sound', async () => {
    Device.refuses = true;
    await TestBed.inject(Player).play();
    expect(player.playing()).toBe(false);
    expect(TestBed.inject(Said).text()).toMatch(/no sound/);
  });
});
