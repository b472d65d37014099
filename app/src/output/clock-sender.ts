import { firstAt } from '@early-sparrow/core/maths';
import { NO_TICKS, PER_SIXTEENTH, type Ticking } from '@early-sparrow/core/sound';
import type { OutputDevice } from './device';

// Status bytes and their order: MIDI 1.0 Detailed Specification, System Real Time and song position pointer.
const POSITION = 0xf2;
const CLOCK = 0xf8;
const START = 0xfa;
const CONTINUE = 0xfb;
const STOP = 0xfc;
/** Places are told in 14 bits. */
const FARTHEST = 0x3fff;
/** Devices get this long for each message before the first clock, in ms. */
const BEFORE = 1;

/** Tells devices the tempo and the place of the song, so that they run along. */
export class ClockSender {
  private clock: Ticking = NO_TICKS;
  private all: readonly OutputDevice[] = [];
  private running = false;
  /** When it began to run, on the page's clock in ms. */
  private since = -Infinity;

  /** @param at where other devices than before take over, on the page's clock in ms */
  set(clock: Ticking, devices: readonly OutputDevice[], at: number): void {
    // The devices so far are stopped; the new ones get the position with their first clock.
    if (idsOf(devices) !== idsOf(this.all)) this.stop(at);
    this.clock = clock;
    this.all = devices;
  }

  get wanted(): boolean {
    return this.all.length > 0;
  }

  get devices(): readonly OutputDevice[] {
    return this.all;
  }

  /** A clock is due. @param ms time of the song @param at of the page's clock, when it is to be there */
  tick(ms: number, at: number): void {
    // The one that is nearest: times were rounded to frames.
    const index = firstAt(this.clock.at, ms - 1);
    if (!this.running) {
      // Devices can be told sixteenths alone.
      const place = index / PER_SIXTEENTH;
      if (!Number.isInteger(place) || place > FARTHEST) return;
      this.send([POSITION, place & 0x7f, place >> 7], at - 2 * BEFORE);
      this.send([place === 0 ? START : CONTINUE], at - BEFORE);
      this.running = true;
      this.since = at;
    }
    this.send([CLOCK], at);
  }

  /** The song stands still, or goes on elsewhere: that is told with the next clock. */
  stop(at: number): void {
    if (this.running) this.send([STOP], at);
    this.running = false;
  }

  /** The song stops now; a start that is still to come is stopped as soon as it has come. */
  stopNow(now: number): void {
    this.stop(Math.max(now, this.since));
  }

  private send(bytes: readonly number[], at: number): void {
    for (const device of this.all) device.send(bytes, at);
  }
}

function idsOf(devices: readonly OutputDevice[]): string {
  return devices.map(({ id }) => id).join('\n');
}
