import { HeldDown, onChannel, type MidiBytes } from '@early-sparrow/core/record';
import type { OutputDevice } from './device';

/** The messages of one device: those that were sent ahead, and what they and all earlier ones hold down. */
export class DeviceLine {
  /** What is held down at this moment. */
  private readonly now = new HeldDown();
  /** What will be held down once every message has taken effect. */
  private readonly last = new HeldDown();
  private later: { readonly bytes: MidiBytes; readonly at: number }[] = [];

  constructor(readonly device: OutputDevice) {}

  /** @param at when it is to sound, on the page's clock in ms; never before what was sent before */
  send(bytes: MidiBytes, at: number): void {
    this.device.send(onChannel(bytes, bytes[0] & 0x0f), at);
    this.last.hear(bytes);
    this.later.push({ bytes, at });
    this.comeDue(performance.now());
  }

  /** The messages that release everything, once all that was sent has taken effect. */
  up(): MidiBytes[] {
    return this.last.up();
  }

  /** Ends everything now, what was sent for later too. */
  stop(now: number): void {
    this.comeDue(now);
    if (!this.device.clear()) {
      // What cannot be taken back is let go as soon as it is struck.
      for (const { bytes, at } of this.later) for (const up of letsGo(bytes)) this.device.send(up, at + 1);
    }
    for (const up of this.now.up()) this.device.send(up, now);
    this.later = [];
    this.now.clear();
    this.last.clear();
  }

  private comeDue(now: number): void {
    while (this.later.length > 0 && this.later[0].at <= now) this.now.hear(this.later.shift()!.bytes);
  }
}

function letsGo(bytes: MidiBytes): MidiBytes[] {
  const held = new HeldDown();
  held.hear(bytes);
  return held.up();
}
