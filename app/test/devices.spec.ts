import { midiClock, type ScoreTrack } from '@early-sparrow/core/sound';
import { newSong } from '@early-sparrow/core/song';
import { score } from '../../core/test/scores';
import { DevicePlayer } from '../src/output/device-player';
import type { OutputDevice } from '../src/output/device';

/** A device that writes down what it is sent, and for when. */
class Device implements OutputDevice {
  readonly name = 'Device';
  constructor(
    private readonly forgets = true,
    readonly id = 'device',
  ) {}
  readonly sent: { bytes: readonly number[]; at: number; now: number }[] = [];
  private coming: { bytes: readonly number[]; at: number }[] = [];
  cleared = 0;
  send(bytes: readonly number[], at: number): void {
    this.sent.push({ bytes, at, now: performance.now() });
    this.coming.push({ bytes, at });
  }
  clear(): boolean {
    this.cleared++;
    if (this.forgets) this.coming = this.coming.filter(({ at }) => at <= performance.now());
    return this.forgets;
  }
  /** What is down, and whether its clock runs, once everything that it did not forget has come. */
  end(): string[] {
    const down = new Set<string>();
    for (const { bytes } of this.coming.sort((a, b) => a.at - b.at)) {
      const [status, first, second] = bytes;
      if (status === 0x90) down.add(`key ${first}`);
      if (status === 0x80) down.delete(`key ${first}`);
      if (status === 0xb0 && first === 64) down[second > 0 ? 'add' : 'delete']('pedal');
      if (status === 0xe0) down[first !== 0 || second !== 64 ? 'add' : 'delete']('wheel');
      if (status === 0xfa || status === 0xfb) down.add('clock');
      if (status === 0xfc) down.delete('clock');
    }
    return [...down];
  }
  ons(): typeof this.sent {
    return this.sent.filter(({ bytes }) => (bytes[0] & 0xf0) === 0x90);
  }
}

describe('a track on a device', () => {
  beforeEach(() => jest.useFakeTimers({ now: 50_000 }));
  afterEach(() => jest.useRealTimers());

  const notes = Array.from({ length: 20 }, (_, id) => ({ id, start: id * 100, end: id * 100 + 60 }));
  const rig = (track: ScoreTrack) => {
    const device = new Device();
    const began = performance.now() + 40;
    const player = new DevicePlayer((at) => at - began);
    player.setRoute('t', { device, score: track });
    return { device, began, player };
  };

  it('gets each message ahead of its time, for its very place, on its channel', () => {
    const track = { ...score(notes), slots: [{ channel: 5, kind: 'keys', program: 4 }] } as const;
    const { device, began, player } = rig(track);
    player.start(0, began);
    jest.advanceTimersByTime(1500);
    const ons = device.ons();
    expect(ons.length).toBeGreaterThanOrEqual(15);
    ons.forEach(({ at, now }, i) => {
      expect(Math.abs(at - began - i * 100)).toBeLessThan(0.2);
      expect(at - now).toBeGreaterThan(0);
    });
    expect(device.sent[0].bytes).toEqual([0xb5, 121, 0]);
    expect(device.sent[1].bytes).toEqual([0xc5, 4]);
    player.stop();
  });

  it('is left with no key down, and with nothing to come, when the song stops', () => {
    const { device, began, player } = rig(score([{ id: 0, start: 0, end: 5000 }]));
    player.start(0, began);
    jest.advanceTimersByTime(400);
    player.stop();
    expect(device.sent.slice(-1)[0].bytes.slice(0, 2)).toEqual([0x80, 40]);
    expect(device.cleared).toBeGreaterThan(0);
    const { length } = device.sent;
    jest.advanceTimersByTime(1000);
    expect(device.sent).toHaveLength(length);
  });

  it('is left with no pedal down when the song stops', () => {
    const { device, began, player } = rig(score([], [[0, 0xb0, 64, 127]]));
    player.start(0, began);
    jest.advanceTimersByTime(400);
    player.stop();
    expect(device.sent.at(-1)?.bytes).toEqual([0xb0, 64, 0]);
  });

  // Browsers that know no way to take messages back are common.
  it.each([true, false])('is left with nothing down whenever the song stops, able to forget: %p', (forgets) => {
    const wheel = [0, 10, 20, 30].flatMap((k): [number, number, number, number][] => [
      [k * 40, 0xe0, 0, 90],
      [k * 40 + 5, 0xb0, 64, 127],
      [k * 40 + 25, 0xe0, 0, 64],
      [k * 40 + 30, 0xb0, 64, 0],
    ]);
    const short = notes.map((n) => ({ ...n, end: n.start + 25 }));
    for (let plays = 1; plays < 500; plays += 7) {
      const device = new Device(forgets);
      const began = performance.now() + 40;
      const player = new DevicePlayer((at) => at - began);
      player.setRoute('t', { device, score: score(short, wheel) });
      player.setClock(midiClock(newSong('Song'), 7680), [device]);
      player.start(0, began);
      jest.advanceTimersByTime(plays);
      player.stop();
      expect([plays, ...device.end()]).toEqual([plays]);
    }
  });

  it('goes round a loop without losing what was sent ahead', () => {
    const { device, began, player } = rig(score(notes));
    player.setLoop({ from: 0, to: 400 });
    player.start(0, began);
    jest.advanceTimersByTime(1700);
    const ons = device.ons().slice(0, 16);
    expect(ons.map(({ bytes }) => bytes[1] - 40)).toEqual([0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3, 0, 1, 2, 3]);
    ons.forEach(({ at }, i) => expect(Math.abs(at - began - i * 100)).toBeLessThan(0.2));
    player.stop();
  });

  describe('that goes elsewhere while it plays', () => {
    const held = score([{ id: 0, start: 0, end: 5000 }], [[0, 0xb0, 64, 127]]);
    const lets = (device: Device) => device.sent.slice(-2).map(({ bytes }) => bytes.slice(0, 2));
    const ALL_UP = [
      [0x80, 40],
      [0xb0, 64],
    ];

    it('leaves no key and no pedal down where it was', () => {
      for (const to of [null, { device: new Device(true, 'other'), score: held }]) {
        const { device, began, player } = rig(held);
        player.start(0, began);
        jest.advanceTimersByTime(400);
        player.setRoute('t', to);
        expect(lets(device)).toEqual(ALL_UP);
        const { length } = device.sent;
        jest.advanceTimersByTime(400);
        player.stop();
        expect(device.sent.slice(length).filter(({ bytes }) => bytes[0] < 0xf0)).toEqual([]);
      }
    });

    it('sounds there as it did here: with its program, its pedal, and its next note', () => {
      const track = {
        ...score(notes, [[0, 0xb0, 64, 127]]),
        slots: [{ channel: 5, kind: 'keys', program: 4 }],
      } as const;
      const { began, player } = rig(track);
      const other = new Device(true, 'other');
      player.start(0, began);
      jest.advanceTimersByTime(400);
      player.setRoute('t', { device: other, score: track });
      jest.advanceTimersByTime(400);
      player.stop();
      expect(other.sent.slice(0, 3).map(({ bytes }) => bytes)).toEqual([
        [0xb5, 121, 0],
        [0xc5, 4],
        [0xb5, 64, 127],
      ]);
      expect(other.ons().length).toBeGreaterThan(2);
      for (const { bytes, at } of other.ons()) expect(Math.abs(at - began - (bytes[1] - 40) * 100)).toBeLessThan(0.2);
    });

    it('goes on where it was if the list of devices is made anew', () => {
      const { device, began, player } = rig(held);
      player.start(0, began);
      jest.advanceTimersByTime(400);
      const { length } = device.sent;
      player.setRoute('t', { device: new Device(), score: held });
      jest.advanceTimersByTime(400);
      expect(device.sent).toHaveLength(length);
      player.stop();
      expect(device.end()).toEqual([]);
    });

    it('comes in where the song is, if nothing went to a device before', () => {
      const device = new Device();
      const began = performance.now();
      const player = new DevicePlayer((at) => at - began);
      player.start(0, began);
      jest.advanceTimersByTime(730);
      player.setRoute('t', { device, score: score(notes) });
      jest.advanceTimersByTime(400);
      player.stop();
      expect(device.ons()[0].bytes[1] - 40).toBe(8);
      for (const { bytes, at } of device.ons()) expect(Math.abs(at - began - (bytes[1] - 40) * 100)).toBeLessThan(1);
      const { length } = device.sent;
      player.setRoute('t', null);
      player.setRoute('t', { device, score: score(notes) });
      jest.advanceTimersByTime(400);
      expect(device.sent).toHaveLength(length);
    });
  });

  describe('that runs along', () => {
    const times = newSong('Song');
    /** System messages by what they say: the place in sixteenths with each start. */
    const told = (device: Device) =>
      device.sent.filter(({ bytes }) => bytes[0] >= 0xf0).map(({ bytes, at }) => ({ bytes, at }));
    const clocked = () => {
      const { device, began, player } = rig(score([]));
      player.setClock(midiClock(times, 7680), [device]);
      return { device, began, player };
    };

    it('gets 24 clocks a quarter, each ahead of its time, after a start', () => {
      const { device, began, player } = clocked();
      player.start(0, began);
      jest.advanceTimersByTime(1200);
      const [position, start, ...clocks] = told(device);
      // source: MIDI 1.0 Detailed Specification, System Common and System Real Time messages
      expect([position.bytes, start.bytes]).toEqual([[0xf2, 0, 0], [0xfa]]);
      expect(start.at).toBeLessThan(clocks[0].at);
      // A quarter is 500 ms.
      clocks.forEach(({ bytes, at }, k) => {
        expect(bytes).toEqual([0xf8]);
        expect(Math.abs(at - began - (k * 500) / 24)).toBeLessThan(0.2);
      });
      expect(clocks.length).toBeGreaterThan(48);
      player.stop();
      expect(told(device).at(-1)?.bytes).toEqual([0xfc]);
    });

    it('is told to stop where it is to run along no longer, and its place where another comes', () => {
      const { device, began, player } = clocked();
      const other = new Device(true, 'other');
      player.start(0, began);
      jest.advanceTimersByTime(800);
      player.setClock(midiClock(newSong('Song'), 7680), [other]);
      jest.advanceTimersByTime(800);
      expect(device.end()).toEqual([]);
      expect(other.end()).toEqual(['clock']);
      // From the next sixteenth on, each 125 ms.
      const [place, on, first] = told(other);
      expect([place.bytes, on.bytes, first.bytes]).toEqual([[0xf2, (first.at - began) / 125, 0], [0xfb], [0xf8]]);
      player.stop();
      expect(other.end()).toEqual([]);
    });

    it('is told where it goes on, in sixteenths, and at each turn of a loop', () => {
      const { device, began, player } = clocked();
      player.setLoop({ from: 500, to: 1000 });
      // The next sixteenth after 560 ms is the fifth.
      player.start(560, began - 560);
      jest.advanceTimersByTime(1200);
      player.stop();
      const words = told(device).filter(({ bytes }) => bytes[0] !== 0xf8);
      const [place] = words.map(({ bytes }) => bytes);
      expect(place).toEqual([0xf2, 5, 0]);
      expect(words.slice(1, 5).map(({ bytes }) => bytes)).toEqual([[0xfb], [0xfc], [0xf2, 4, 0], [0xfb]]);
    });
  });
});
