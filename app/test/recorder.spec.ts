import { signal } from '@angular/core';
import { TestBed } from '@angular/core/testing';
import { Store } from '@ngrx/store';
import { startHistory } from '@early-sparrow/core/edit';
import type { MidiBytes } from '@early-sparrow/core/record';
import type { Song } from '@early-sparrow/core/song';
import { note, song } from '../../core/test/build';
import { Said } from '../src/common/said';
import { Recorder } from '../src/desk/recording/recorder';
import { Recordings } from '../src/desk/recording/recordings';
import { Inputs } from '../src/input/inputs';
import type { Heard, InputSource } from '../src/input/source';
import { WebMidi } from '../src/input/web-midi';
import { Player } from '../src/sound/player';
import { DeskActions, deskFeature } from '../src/state/desk.feature';
import { HandingOver } from '../src/state/handing-over';
import { PlayedStore, type Plan, type Unfinished } from '../src/storage/played-store';
import { provideDeskStore } from './store';

/** A song that plays as the page's clock goes: what is heard at a time is that time, less where playing began. */
class Playing {
  readonly playing = signal(false);
  readonly starting = signal(false);
  readonly endless = signal(false);
  readonly loopOn = signal(false);
  readonly loop = signal({ from: 0, to: 0 });
  readonly position = signal(0);
  readonly round = signal(0);
  readonly began = signal({ tick: 0 });
  readonly lived: MidiBytes[] = [];
  heardAt(at: number): { ms: number; round: number } | null {
    return this.playing() ? { ms: at, round: 0 } : null;
  }
  play(): Promise<void> {
    this.playing.set(true);
    this.began.set({ tick: this.position() });
    return Promise.resolve();
  }
  stop(): void {
    this.playing.set(false);
  }
  seek(tick: number): void {
    this.position.set(tick);
    this.began.set({ tick });
  }
  live(_track: string, bytes: MidiBytes): void {
    this.lived.push(bytes);
  }
}

/** A keyboard whose keys are pressed by the test. */
class Keyboard implements InputSource {
  readonly id = 'keyboard';
  readonly name = 'Test keyboard';
  private heard: Heard | null = null;
  listen(heard: Heard): () => void {
    this.heard = heard;
    return () => (this.heard = null);
  }
  send(bytes: MidiBytes, ms: number): void {
    this.heard?.(bytes, ms);
  }
  note(pitch: number, ms: number, channel = 0): void {
    this.send([0x90 | channel, pitch, 90], ms);
    this.send([0x80 | channel, pitch, 64], ms + 50);
  }
}

describe('the recorder', () => {
  let recorder: Recorder;
  let player: Playing;
  let store: Store;
  let inputs: Inputs;
  const keyboard = new Keyboard();
  const kept: Unfinished[] = [];
  const current = (): Song => store.selectSignal(deskFeature.selectSong)()!;
  const record = async (play: () => void) => {
    await recorder.start();
    TestBed.tick();
    play();
    player.stop();
    TestBed.tick();
  };

  beforeEach(() => {
    localStorage.clear();
    kept.length = 0;
    player = new Playing();
    const played = {
      add: (_song: string, began: string, plan: Plan, messages: Unfinished['messages']) => {
        kept.push({ began, plan, messages });
        return Promise.resolve();
      },
      clear: (_song: string, began: string) => {
        kept.splice(0, kept.length, ...kept.filter((k) => k.began !== began));
        return Promise.resolve();
      },
      unfinished: () => Promise.resolve([...kept]),
    };
    TestBed.configureTestingModule({
      providers: [
        provideDeskStore(),
        Recorder,
        Recordings,
        { provide: Player, useValue: player },
        { provide: PlayedStore, useValue: played },
      ],
    });
    store = TestBed.inject(Store);
    const one = song([note(0, 100), note(1, 2000)]);
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(one), role: 'writer', damage: null }));
    inputs = TestBed.inject(Inputs);
    inputs.add(keyboard);
    inputs.choose('keyboard');
    recorder = TestBed.inject(Recorder);
  });

  it('makes a track of what is played, heard at once, and one undo takes all of it away', async () => {
    const before = current();
    await record(() => keyboard.note(64, 500));
    expect(player.lived).toHaveLength(2);
    expect(current().tracks).toHaveLength(2);
    expect(current().tracks[1].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([[64, 960]]);
    store.dispatch(DeskActions.undo());
    expect(current()).toEqual(before);
  });

  it('shows notes, pedals and bends while they are played, and keeps them', async () => {
    await record(() => {
      keyboard.send([0xb0, 64, 100], 250);
      keyboard.send([0x90, 60, 90], 300);
      keyboard.send([0xe0, 0, 96], 500);
      keyboard.send([0xb0, 1, 80], 550);
      expect(recorder.live()).toEqual({
        notes: [{ pitch: 60, start: 576, end: null }],
        pedals: [{ controller: 64, start: 480, end: null }],
        bends: [{ at: 960, value: 0.5 }],
      });
      keyboard.send([0x80, 60, 64], 1000);
      keyboard.send([0xb0, 64, 0], 1000);
      expect([recorder.live().notes[0].end, recorder.live().pedals[0].end]).toEqual([1920, 1920]);
    });
    expect(recorder.live().notes).toEqual([]);
    const [part] = current().tracks[1].parts;
    expect(part.events.map((e) => [e.type, e.tick])).toEqual([
      ['controller', 480],
      ['bend', 960],
      ['controller', 1056],
      ['controller', 1920],
      // The bend that was held is let go where recording stopped.
      ['bend', 1920],
    ]);
  });

  it('takes the device’s latency away, and leaves out other channels', async () => {
    inputs.setLatency(30);
    inputs.setChannel(2);
    await record(() => {
      keyboard.note(64, 530, 2);
      keyboard.note(65, 700, 1);
    });
    expect(current().tracks[1].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([[64, 960]]);
  });

  it('leaves out what is tried before it begins, but for a first note a hair early', async () => {
    player.position.set(1920);
    await record(() => {
      keyboard.note(60, 200);
      keyboard.note(61, 960);
      keyboard.note(62, 1500);
    });
    expect(current().tracks[1].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([
      [61, 1843],
      [62, 2880],
    ]);
  });

  it('replaces only between the ends of the punch range', async () => {
    recorder.into.set('replace');
    recorder.punch.set(true);
    player.loop.set({ from: 0, to: 960 });
    await record(() => {
      keyboard.note(70, 200);
      keyboard.note(71, 900);
    });
    const [part] = current().tracks[0].parts;
    expect(part.notes.map((n) => [n.pitch, n.start])).toEqual([
      [70, 384],
      [60, 2000],
    ]);
    expect(current().tracks).toHaveLength(1);
  });

  it('puts what a part has no room for into a track of its own, and says so', async () => {
    const one = song([note(0, 100)]);
    const [track] = one.tracks;
    const [part] = track.parts;
    const next = { ...part, id: 'p2', notes: [], start: part.end, end: part.end + 3840 };
    const two = { ...one, tracks: [{ ...track, parts: [part, next] }], nextId: 20 };
    store.dispatch(DeskActions.opened({ songId: 'x', history: startHistory(two), role: 'writer', damage: null }));
    recorder.into.set('add');
    await record(() => keyboard.note(64, ((part.end + 500) * 500) / 960));
    expect(current().tracks).toHaveLength(2);
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([64]);
    expect(TestBed.inject(Said).text()).toMatch(/What was played is in a track of its own/);
  });

  it('goes on behind the song’s end', async () => {
    player.position.set(9600);
    await record(() => keyboard.note(64, 5200));
    expect(current().tracks[1].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([[64, 9984]]);
  });

  it('keeps what was played before and after a jump, in time too', async () => {
    player.position.set(3840);
    await record(() => {
      keyboard.note(64, 2100);
      keyboard.send([0x90, 65, 90], 2500);
      player.seek(0);
      TestBed.tick();
      keyboard.note(66, 100);
    });
    const { notes } = current().tracks[1].parts[0];
    expect(notes.map((n) => [n.pitch, n.start])).toEqual([
      [66, 192],
      [64, 4032],
      [65, 4800],
    ]);
    // What was held when the song jumped ends there.
    expect(notes[2].length).toBeLessThan(100);
  });

  it('begins before the punch range where the playhead is behind it', async () => {
    recorder.into.set('add');
    recorder.punch.set(true);
    player.loop.set({ from: 3840, to: 5760 });
    player.position.set(9600);
    await record(() => keyboard.note(64, 2100));
    expect(player.began()).toEqual({ tick: 0 });
    expect(current().tracks[0].parts[0].notes.map((n) => n.pitch)).toContain(64);
  });

  it('offers what was played outside of the punch range', async () => {
    recorder.punch.set(true);
    player.loop.set({ from: 3840, to: 5760 });
    const before = current();
    await record(() => keyboard.note(64, 500));
    expect(current()).toBe(before);
    expect(TestBed.inject(Said).text()).toMatch(/Nothing was played in the range. one note outside it can be added/i);
    recorder.fetchOutside();
    expect(current().tracks[1].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([[64, 960]]);
    expect(recorder.outside()).toEqual([]);
  });

  it('takes the place of no more than was played over', async () => {
    recorder.into.set('replace');
    player.loop.set({ from: 0, to: 3840 });
    player.loopOn.set(true);
    await record(() => {
      keyboard.note(70, 200);
      keyboard.note(71, 700);
    });
    // The note at 2000 lies in the loop, behind the place where recording stopped.
    expect(current().tracks[0].parts[0].notes.map((n) => [n.pitch, n.start])).toEqual([
      [70, 384],
      [71, 1344],
      [60, 2000],
    ]);
  });

  it('asks for the right to write before it begins, and does not begin without', async () => {
    store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    const asked = recorder.start();
    expect(recorder.recording()).toBe(false);
    store.dispatch(DeskActions.roleChanged({ role: 'writer' }));
    await asked;
    expect(recorder.recording()).toBe(true);
  });

  it('keeps what was played where another tab takes the song over, and brings it back', async () => {
    await recorder.start();
    TestBed.tick();
    keyboard.note(64, 500);
    store.dispatch(DeskActions.roleChanged({ role: 'reader' }));
    TestBed.tick();
    expect(recorder.recording()).toBe(false);
    expect(current().tracks).toHaveLength(1);
    expect(kept).toHaveLength(1);
    expect(TestBed.inject(Said).text()).toMatch(/What you played is safe/);
    store.dispatch(DeskActions.roleChanged({ role: 'writer' }));
    await recorder.recover();
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([64]);
  });

  it('hands a song over with all that was played', async () => {
    await recorder.start();
    TestBed.tick();
    keyboard.note(64, 500);
    TestBed.inject(HandingOver).endAll();
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([64]);
  });

  it('forgets a recording only once its step is on the disk, and brings in none twice', async () => {
    store.dispatch(DeskActions.writing({ state: { unsaved: 1, trouble: null } }));
    await record(() => keyboard.note(64, 500));
    expect(kept).toHaveLength(1);
    store.dispatch(DeskActions.writing({ state: { unsaved: 1, trouble: 'failed' } }));
    TestBed.tick();
    expect(kept).toHaveLength(1);
    // The step was written, but its messages were not forgotten yet: another page opens the song.
    await recorder.recover();
    expect(current().tracks).toHaveLength(2);
    store.dispatch(DeskActions.writing({ state: { unsaved: 0, trouble: null } }));
    TestBed.tick();
    expect(kept).toHaveLength(0);
  });

  it('says so where punching has no range, and where nothing was played', async () => {
    recorder.punch.set(true);
    await recorder.start();
    expect(recorder.recording()).toBe(false);
    expect(TestBed.inject(Said).text()).toMatch(/Drag a loop/);
    recorder.punch.set(false);
    const before = current();
    await record(() => undefined);
    expect(TestBed.inject(Said).text()).toMatch(/Nothing was played/);
    expect(current()).toBe(before);
  });

  it('fetches what was played in the bar before record was pressed', async () => {
    inputs.open.set(true);
    await player.play();
    TestBed.tick();
    keyboard.note(50, 100);
    keyboard.note(51, 3000);
    await record(() => keyboard.note(52, 3400));
    // A bar is two seconds: the first note is too long ago.
    expect(recorder.outside().map((n) => n.pitch)).toEqual([51]);
    recorder.fetchOutside();
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([51, 52]);
    expect(recorder.outside()).toEqual([]);
  });

  it('goes on when its device is unplugged, and says so', async () => {
    const midi = TestBed.inject(WebMidi);
    const device = new Keyboard();
    midi.sources.set([{ id: 'midi:1', name: 'Old piano', listen: (heard) => device.listen(heard) }]);
    inputs.choose('midi:1');
    await record(() => {
      device.note(60, 100);
      midi.sources.set([]);
      TestBed.tick();
      expect(TestBed.inject(Said).text()).toMatch(/Old piano was unplugged. What you played is safe/);
      expect(recorder.recording()).toBe(true);
      device.note(61, 300);
    });
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([60]);
  });

  it('brings back, once, what a closed tab left', async () => {
    jest.useFakeTimers();
    await recorder.start();
    TestBed.tick();
    keyboard.note(64, 500);
    jest.advanceTimersByTime(1000);
    jest.useRealTimers();
    expect(kept).toHaveLength(1);
    const left = [...kept];
    // Another page with the same song: the first one never came to an end.
    player.stop();
    TestBed.tick();
    store.dispatch(DeskActions.undo());
    kept.push(...left.map((one) => ({ ...one, began: 'another page' })));
    await recorder.recover();
    expect(current().tracks[1].parts[0].notes.map((n) => n.pitch)).toEqual([64]);
    expect(TestBed.inject(Said).text()).toMatch(/recovered: one note/);
    expect(kept).toEqual([]);
  });
});
