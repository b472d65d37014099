import { onChannel } from '@early-sparrow/core/record';
import { Conductor, type MsSpan, type Players, type ScoreTrack, type Ticking } from '@early-sparrow/core/sound';
import { isPedalNumber } from '@early-sparrow/core/song';
import { ClockSender } from './clock-sender';
import type { OutputDevice } from './device';

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
  private readonly held = new Map<string, readonly [OutputDevice, number, number]>();
  /** Pedals that are down: device, channel, controller. */
  private readonly pedals = new Map<string, readonly [OutputDevice, number, number]>();
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
    if (known?.device === route?.device && known?.score === route?.score) return;
    if (known && known.device !== route?.device) this.leave(track, known);
    if (!route) return;
    this.routes.set(track, route);
    if (this.conductor.playing && known?.device !== route.device) this.reset(track);
    this.conductor.setTrack(track, route.score);
    this.join();
  }

  /** Devices that run along with the song. */
  setClock(clock: Ticking, devices: readonly OutputDevice[]): void {
    this.clock.set(clock, devices);
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

  /** Every key and pedal that is down is let go: where the song turns back, or now if it stops. */
  silence(): void {
    const at = this.stopping ? performance.now() : this.at();
    if (this.stopping) for (const device of new Set([...this.routes.values()].map((r) => r.device))) device.clear();
    for (const [device, channel, pitch] of this.held.values()) device.send([0x80 | channel, pitch, 64], at);
    for (const [device, channel, pedal] of this.pedals.values()) device.send([0xb0 | channel, pedal, 0], at);
    this.held.clear();
    this.pedals.clear();
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

  /** Lets all keys and pedals of a track go on the device that it leaves. */
  private leave(track: string, { device, score }: Route): void {
    this.conductor.setTrack(track, null);
    this.routes.delete(track);
    for (const [key, [of, channel, pedal]] of this.pedals) {
      if (of !== device || !score.slots.some((slot) => slot.channel === channel)) continue;
      device.send([0xb0 | channel, pedal, 0], this.at());
      this.pedals.delete(key);
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
    const at = this.at();
    route.device.send(onChannel([status, first, second], channel), at);
    const key = `${route.device.id} ${channel} ${first}`;
    if (status === 0x90) this.held.set(key, [route.device, channel, first]);
    else if (status === 0x80) this.held.delete(key);
    else if (status === 0xb0 && isPedalNumber(first)) {
      if (second > 0) this.pedals.set(key, [route.device, channel, first]);
      else this.pedals.delete(key);
    }
  }
}
