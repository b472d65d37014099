import { Conductor, type MsSpan, type Players, type ScoreTrack, type Ticking } from '@early-sparrow/core/sound';
import { ClockSender } from './clock-sender';
import type { OutputDevice } from './device';
import { DeviceLine } from './device-line';

/** Frames a second: places are exact to a tenth of a ms. */
const RATE = 10_000;
/** Messages go out so long before they are to sound, in ms, so that a busy page makes none late. */
const AHEAD = 100;
const TURN = 25;
/** Of a difference to the audio clock so much is made up for at each turn. */
const CATCH_UP = 0.05;

/** Where a track goes. */
export interface Route {
  readonly device: OutputDevice;
  readonly score: ScoreTrack;
}

/**
 * Plays tracks on devices: the same conductor as on the audio thread, some way ahead of what is heard, with each message
 * sent for its time.
 */
export class DevicePlayer implements Players {
  private readonly conductor = new Conductor(this, RATE, {
    leg: () => undefined,
    ended: () => undefined,
  });
  private readonly clock = new ClockSender();
  private readonly routes = new Map<string, Route>();
  /** By the id of the device. */
  private readonly lines = new Map<string, DeviceLine>();
  /** Time of the page's clock at frame 0. */
  private zero = 0;
  private frame = 0;
  private rate = 1;
  /** What was sent for later is no longer wanted. */
  private stopping = false;
  /** The song plays, if only here. */
  private playing = false;
  private timer: ReturnType<typeof setInterval> | undefined;

  /** @param heardAt song time in ms that is heard at a time of the page's clock */
  constructor(private readonly heardAt: (at: number) => number | null) {}

  /** Where a track goes from here on, while the song plays too; null for nowhere. */
  setRoute(track: string, route: Route | null): void {
    const known = this.routes.get(track);
    // The list of devices is made anew when one comes or goes; the others go on.
    const stays = known?.device.id === route?.device.id;
    if (stays && known?.score === route?.score) return;
    if (known && !stays) this.leave(track, known);
    if (!route) return;
    this.routes.set(track, route);
    if (this.conductor.playing && !stays) this.reset(track);
    this.conductor.setTrack(track, route.score);
    this.join();
  }

  /** Devices that run along with the song. */
  setClock(clock: Ticking, devices: readonly OutputDevice[]): void {
    this.clock.set(clock, devices, this.at());
    this.conductor.setTicks(clock, devices.length > 0);
    this.join();
  }

  setLoop(loop: MsSpan | null): void {
    this.conductor.setLoop(loop);
  }

  setRate(rate: number): void {
    this.rate = rate;
    this.conductor.setRate(rate);
  }

  setAudible(track: string, audible: boolean): void {
    this.conductor.setAudible(track, audible);
  }

  /** Begins at a song time that is heard at a time of the page's clock. */
  start(ms: number, at: number): void {
    this.stop();
    this.playing = true;
    if (this.wanted) this.begin(ms, at);
  }

  stop(): void {
    this.playing = false;
    clearInterval(this.timer);
    this.stopping = true;
    this.conductor.stop();
    this.stopping = false;
  }

  noteOn(track: string, slot: number, pitch: number, velocity: number): void {
    this.send(track, slot, 0x90, pitch, velocity);
  }

  noteOff(track: string, slot: number, pitch: number): void {
    this.send(track, slot, 0x80, pitch, 64);
  }

  message(track: string, slot: number, status: number, first: number, second: number): void {
    this.send(track, slot, status, first, second);
  }

  /** The click itself is heard here, not there. */
  tick(): void {
    this.clock.tick(this.conductor.position, this.at());
  }

  /** Every key, pedal and wheel is let go: where the song turns back, or now if it stops. */
  silence(): void {
    if (this.stopping) return this.stopAll();
    const at = this.at();
    for (const line of this.lines.values()) for (const up of line.up()) line.send(up, at);
    this.clock.stop(at);
  }

  reset(track: string): void {
    const route = this.routes.get(track);
    route?.score.slots.forEach(({ program, kind }, slot) => {
      // All controllers as at the beginning (MIDI 1.0, controller 121).
      this.send(track, slot, 0xb0, 121, 0);
      if (kind !== 'drums' && kind !== 'plain') this.send(track, slot, 0xc0, program, 0);
    });
  }

  render(_left: Float32Array, _right: Float32Array, _from: number, count: number): void {
    this.frame += count;
  }

  /** Whether there is anything to be sent. */
  private get wanted(): boolean {
    return this.routes.size > 0 || this.clock.wanted;
  }

  private begin(ms: number, at: number): void {
    this.zero = at - (this.frame * 1000) / RATE;
    this.conductor.start(ms);
    this.timer = setInterval(() => this.turn(), TURN);
    this.turn();
  }

  /** The first that is wanted while the song plays already comes in where it is. */
  private join(): void {
    if (!this.playing || this.conductor.playing || !this.wanted) return;
    const now = performance.now();
    const heard = this.heardAt(now);
    if (heard !== null) this.begin(heard, now);
  }

  private stopAll(): void {
    const now = performance.now();
    for (const device of this.clock.devices) this.lineTo(device);
    for (const line of this.lines.values()) line.stop(now);
    this.clock.stopNow(now);
    this.lines.clear();
  }

  /** Lets everything of a track go on the device that it leaves. */
  private leave(track: string, { device, score }: Route): void {
    this.conductor.setTrack(track, null);
    this.routes.delete(track);
    const line = this.lines.get(device.id);
    for (const up of line?.up() ?? []) {
      // Keys of other tracks on its channel sound on.
      const isKey = (up[0] & 0xf0) === 0x80;
      if (!isKey && score.slots.some((slot) => slot.channel === (up[0] & 0x0f))) line?.send(up, this.at());
    }
  }

  private turn(): void {
    const now = performance.now();
    // The page's clock and the audio clock part a little in time.
    const heard = this.heardAt(now);
    const here = this.conductor.position - (this.at() - now) * this.rate;
    if (heard !== null && Math.abs(here - heard) < AHEAD) this.zero += (here - heard) * CATCH_UP;
    const due = Math.floor(((now + AHEAD - this.zero) / 1000) * RATE) - this.frame;
    if (due <= 0) return;
    const silent = new Float32Array(due);
    this.conductor.render(silent, silent);
  }

  /** Time of the page's clock at the frame that comes next. */
  private at(): number {
    return this.zero + (this.frame * 1000) / RATE;
  }

  private send(track: string, slot: number, status: number, first: number, second: number): void {
    const route = this.routes.get(track);
    const channel = route?.score.slots[slot]?.channel;
    if (!route || channel === undefined) return;
    this.lineTo(route.device).send([status | channel, first, second], this.at());
  }

  private lineTo(device: OutputDevice): DeviceLine {
    let line = this.lines.get(device.id);
    if (!line) this.lines.set(device.id, (line = new DeviceLine(device)));
    return line;
  }
}
