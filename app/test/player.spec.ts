import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import { note, song, treatment } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Outputs } from '../src/output/outputs';
import { Bank } from '../src/sound/bank';
import { Engine } from '../src/sound/engine';
import type { FromEngine, Struck, ToEngine } from '../src/sound/engine-api';
import { ListeningSettings } from '../src/sound/listening-settings';
import { Player } from '../src/sound/player';
import { DeskActions } from '../src/state/desk.feature';
import { provideDeskStore } from './store';

const RATE = 48_000;
const BLOCK = 128;

/** A sound device whose frames are asked for by hand; its engine is the real one. */
class Device {
  static last: Device | null = null;
  static refuses = false;
  readonly context = { state: 'running', addEventListener: (_: string, heard: () => void) => (this.changed = heard) };
  changed: () => void = () => undefined;
  gaps = 0;
  frame = 0;
  readonly struck: Struck[] = [];
  /** Frames at which a tick began. */
  loudest = 0;
  private legs: Extract<FromEngine, { tell: 'leg' }>['leg'][] = [];
  private listeners: ((told: FromEngine) => void)[] = [];
  private readonly engine = new Engine(RATE, 0, (told) => this.hear(told));

  constructor() {
    Device.last = this;
    this.engine.hear({ say: 'watch' });
  }
  static open(): Promise<Device> {
    return Device.refuses ? Promise.reject(new Error('no sound')) : Promise.resolve(new Device());
  }
  wake(): Promise<void> {
    return Promise.resolve();
  }
  sleeps = 0;
  sleep(): Promise<void> {
    this.sleeps++;
    return Promise.resolve();
  }
  readonly said: ToEngine['say'][] = [];
  /** As the way to the audio thread does: what is handed over is gone here. */
  say(message: ToEngine, handed: Transferable[] = []): void {
    this.said.push(message.say);
    this.engine.hear(structuredClone(message, { transfer: handed }));
  }
  listen(listener: (told: FromEngine) => void): void {
    this.listeners.push(listener);
  }
  level(): number {
    return -20;
  }
  begin(): void {
    this.legs = [];
  }
  finish(): void {
    this.legs = [];
  }
  timeOf(leg: { frame: number }): number {
    return (leg.frame / RATE) * 1000;
  }
  heardAt(): { ms: number; round: number } | null {
    const ms = this.position();
    return ms === null ? null : { ms, round: 0 };
  }
  position(): number | null {
    const leg = this.legs.findLast((l) => l.frame <= this.frame);
    return leg ? leg.ms + ((this.frame - leg.frame) * leg.msPerSecond) / RATE : null;
  }
  render(): void {
    const [left, right] = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
    this.engine.render(left, right, this.frame);
    this.frame += BLOCK;
    this.loudest = Math.max(this.loudest, ...left);
  }
  private hear(told: FromEngine): void {
    if (told.tell === 'leg') this.legs.push(told.leg);
    if (told.tell === 'watched') this.struck.push(...told.struck);
    for (const listener of this.listeners) listener(told);
  }
}
jest.mock('../src/sound/sound-device', () => ({
  SoundDevice: { open: () => Device.open() },
  NoSoundDevice: class extends Error {},
}));

describe('the player', () => {
  let player: Player;
  let store: Store;
  const device = () => Device.last ?? new Device();
  /** Lets so many seconds go by, a block at a time; what changed goes to the engine as it does between two frames. */
  const run = (seconds: number) => {
    for (const end = device().frame + seconds * RATE; device().frame < end;) {
      if (device().frame % (BLOCK * 6) === 0) {
        TestBed.tick();
        jest.advanceTimersByTime(16);
      }
      device().render();
    }
  };
  const ofTrack = (track: string) => device().struck.filter((n) => n.track === track);
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
    localStorage.clear();
    const none = {
      load: () => Promise.resolve(),
      sound: () => Promise.resolve(null),
      sounds: () => [],
      name: () => '',
    };
    TestBed.configureTestingModule({ providers: [provideDeskStore(), { provide: Bank, useValue: none }] });
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
    run(1.2);
    const first = ofTrack('t');
    // Eighths at 120 BPM, to the frame, from the one at the playhead on.
    expect(first.slice(0, 4).map((n) => n.id)).toEqual([2, 3, 4, 5]);
    expect(first.slice(1, 4).map((n, i) => n.frame - first[i].frame)).toEqual([12_000, 12_000, 12_000]);
    expect(first.every((n) => n.when === 'due')).toBe(true);
    expect(player.position()).toBeGreaterThan(960);
    player.stop();
    const { length } = device().struck;
    run(1);
    expect(device().struck).toHaveLength(length);
    expect(player.playing()).toBe(false);
  });

  it('lets the sound engine rest where it was made ready, and nothing is played', async () => {
    player.prepare();
    await jest.advanceTimersByTimeAsync(19_000);
    expect(device().sleeps).toBe(0);
    await jest.advanceTimersByTimeAsync(2000);
    expect(device().sleeps).toBe(1);
    // What plays is not put to rest by having been made ready.
    const playing = player.play();
    player.prepare();
    await playing;
    await jest.advanceTimersByTimeAsync(30_000);
    expect([player.playing(), device().sleeps]).toEqual([true, 1]);
  });

  it('pressed again before the sound engine is awake, it does not begin, and a third time it does', async () => {
    let wakes: () => void = () => undefined;
    await player.wake();
    jest.spyOn(device(), 'wake').mockImplementation(() => new Promise((done) => (wakes = done)));
    player.toggle();
    await Promise.resolve();
    expect(player.starting()).toBe(true);
    player.toggle();
    wakes();
    await jest.advanceTimersByTimeAsync(10);
    expect([player.playing(), player.starting()]).toEqual([false, false]);
    player.toggle();
    await Promise.resolve();
    wakes();
    await jest.advanceTimersByTimeAsync(10);
    expect(player.playing()).toBe(true);
  });

  it('what is played in sounds as its track does: transposed, or on the device that it goes to', async () => {
    await player.play();
    const said = jest.spyOn(device(), 'say');
    const lives = () => said.mock.calls.flatMap(([m]) => (m.say === 'live' ? [m.bytes] : []));
    player.live('t', [0x90, 60, 80]);
    const { voice, program, channel, delay } = two().tracks[0];
    const sound = (output: string | null) => ({ voice, program, channel, delay, transpose: 5, output });
    const edit = { kind: 'track-sound', name: 'x', track: 't' } as const;
    store.dispatch(DeskActions.edit({ edit: { ...edit, to: sound(null) } }));
    // It is let go where it was struck, and as it was.
    player.live('t', [0x80, 60, 0]);
    player.live('t', [0x90, 60, 80]);
    expect(lives()).toEqual([
      [0x90, 60, 80],
      [0x80, 60, 0],
      [0x90, 65, 80],
    ]);
    const { synth } = TestBed.inject(Outputs);
    const sent = () => synth.received().at(-1)?.bytes;
    store.dispatch(DeskActions.edit({ edit: { ...edit, to: sound(synth.id) } }));
    player.live('t', [0x80, 60, 0]);
    expect(lives().at(-1)).toEqual([0x80, 65, 0]);
    player.live('t', [0x90, 62, 80]);
    expect(lives()).toHaveLength(4);
    expect(sent()).toEqual([0x90, 67, 80]);
    store.dispatch(DeskActions.edit({ edit: { ...edit, to: { ...sound(null), transpose: 0 } } }));
    player.live('t', [0x80, 62, 0]);
    expect(lives()).toHaveLength(4);
    expect(sent()).toEqual([0x80, 67, 0]);
  });

  it('stops when the page goes, so that no device outside plays on', async () => {
    await player.play();
    expect(player.playing()).toBe(true);
    dispatchEvent(new Event('pagehide'));
    expect(player.playing()).toBe(false);
  });

  it('leaves out muted tracks, and all others beside one that is solo', async () => {
    await player.play();
    const mix = (track: string, change: object) =>
      store.dispatch(
        DeskActions.edit({ edit: { kind: 'mix', name: 'x', track, mute: false, solo: false, level: 0.8, ...change } }),
      );
    const heard = () => {
      run(0.4);
      device().struck.splice(0);
      run(1);
      return [...new Set(device().struck.map((n) => n.track))];
    };
    mix('t2', { mute: true });
    expect(heard()).toEqual(['t']);
    mix('t2', { solo: true });
    expect(heard()).toEqual(['t2']);
  });

  it('sends mix, loop, end and speed only when they change, not with each step of a slider', async () => {
    await player.play();
    TestBed.tick();
    const sent = () => {
      TestBed.tick();
      return device().said.splice(0);
    };
    sent();
    for (const value of [10, 20, 30]) {
      const push = treatment({ push: { on: true, amount: { value, unit: 'ms' } } });
      store.dispatch(DeskActions.preview({ edit: { kind: 'treatment', name: 'x', part: 'p', treatment: push } }));
      const said = sent();
      expect(said.length).toBeGreaterThan(0);
      expect(said.filter((s) => ['mix', 'loop', 'end', 'rate'].includes(s))).toEqual([]);
    }
    player.rate.set(0.5);
    expect(sent()).toContain('rate');
    const louder = { kind: 'mix', name: 'x', track: 't', mute: false, solo: false, level: 0.4, pan: 0 } as const;
    store.dispatch(DeskActions.edit({ edit: louder }));
    expect(sent()).toContain('mix');
  });

  it('plays what is tried, and the side that is chosen, at once', async () => {
    await player.play();
    run(0.4);
    const push = treatment({ quantize: { on: true }, push: { on: true, amount: { value: 100, unit: 'ms' } } });
    store.dispatch(DeskActions.preview({ edit: { kind: 'treatment', name: 'x', part: 'p', treatment: push } }));
    run(0.8);
    const frames = ofTrack('t').map((n) => n.frame);
    expect(frames[2] - frames[1]).toBe(12_000 + 4800);
    expect(frames[3] - frames[2]).toBe(12_000);
    store.dispatch(DeskActions.compare({ which: 'played' }));
    expect(player.heard()).toBe('played');
    run(0.8);
    // Played 40 ticks late, which are 20.8 ms; pushed by 100 ms before.
    const last = ofTrack('t').slice(-1)[0].frame - frames[3];
    expect(last % 12_000).toBe(12_000 - 4800 + 1000);
  });

  it('hears only some notes, and ends after them', async () => {
    await player.playOnly(new Set([3, 4]), { from: 1440, to: 2400 });
    run(1.5);
    expect(device().struck.map((n) => n.id)).toEqual([3, 4]);
    expect(player.playing()).toBe(false);
    expect(player.only()).toBeNull();
  });

  it('counts in and clicks while that is on', async () => {
    TestBed.inject(ListeningSettings).set({ click: true, countIn: 1 });
    await player.play();
    run(1.9);
    expect(device().loudest).toBeGreaterThan(0.3);
    expect(device().struck).toHaveLength(0);
    expect(player.position()).toBe(0);
    run(0.5);
    expect(device().struck[0].frame).toBe(96_000 + 960);
  });

  it('goes round a loop', async () => {
    player.loop.set({ from: 960, to: 1920 });
    player.loopOn.set(true);
    await player.play();
    run(2.3);
    // Two eighths a round of half a second.
    expect(ofTrack('t').length).toBeGreaterThanOrEqual(8);
    expect(player.position()).toBeGreaterThanOrEqual(960 - 1);
    expect(player.position()).toBeLessThan(1920);
  });

  it('a downbeat that was played early is heard where playing begins at its bar, in every round of a loop too', async () => {
    // Beats of which the one at 960 and the one behind the loop were 40 ticks early: 20.8 ms at 120 BPM.
    const notes = [0, 920, 1920, 2840, 3840].map((start, id) => note(id, start, { pitch: 60 + id }));
    store.dispatch(DeskActions.opened({ songId: 'y', history: startHistory(song(notes, { quantize: { on: true } })) }));
    store.dispatch(DeskActions.compare({ which: 'played' }));
    player.position.set(960);
    await player.play();
    // The playhead stands at the line meanwhile, so that the picture does not turn a page back.
    run(0.02);
    expect(player.position()).toBe(960);
    run(0.3);
    expect(player.position()).toBeGreaterThan(960);
    expect(device().struck.map((n) => n.id)).toEqual([1]);
    player.pause();
    device().struck.splice(0);
    player.loop.set({ from: 960, to: 2880 });
    player.loopOn.set(true);
    player.position.set(960);
    await player.play();
    for (let i = 0; i < 110; i++) {
      run(0.02);
      expect(player.position()).toBeGreaterThanOrEqual(960);
    }
    const struck = device().struck.map((n) => n.id);
    expect(struck.slice(0, 4)).toEqual([1, 2, 1, 2]);
    const [first, , second] = device().struck;
    expect(second.frame - first.frame).toBe(RATE);
    // A track that is muted leads nothing, and leads again once it is heard.
    const mix = (mute: boolean) =>
      store.dispatch(
        DeskActions.edit({
          edit: { kind: 'mix', name: 'x', track: 't', mute, solo: false, level: 0.8, pan: 0 },
        }),
      );
    mix(true);
    run(1.1);
    mix(false);
    device().struck.splice(0);
    run(2.1);
    expect(device().struck.map((n) => n.id)).not.toContain(3);
    expect(device().struck.map((n) => n.id)).toContain(1);
    // Corrected, nothing is early.
    device().struck.splice(0);
    store.dispatch(DeskActions.compare({ which: 'corrected' }));
    run(2.2);
    expect(
      device()
        .struck.map((n) => n.id)
        .slice(-3),
    ).not.toContain(3);
  });

  it('at half speed, the eighths are half a second apart', async () => {
    player.rate.set(0.5);
    await player.play();
    run(1.4);
    const frames = ofTrack('t').map((n) => n.frame);
    expect(frames[1] - frames[0]).toBe(24_000);
  });

  it('says so where the browser gives no sound, and where it stops it', async () => {
    Device.refuses = true;
    await player.play();
    expect(player.playing()).toBe(false);
    expect(TestBed.inject(Said).text()).toMatch(/no sound/);
    Device.refuses = false;
    await player.play();
    run(0.2);
    device().context.state = 'suspended';
    device().changed();
    expect(player.playing()).toBe(false);
    expect(TestBed.inject(Said).text()).toMatch(/stopped the sound/);
  });
});
