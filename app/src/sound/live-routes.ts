import { isNoteOff, isNoteOn, type MidiBytes } from '@early-sparrow/core/record';
import { isPedalNumber } from '@early-sparrow/core/song';
import type { OutputDevice } from '../output/device';

/** Where a key or pedal that is pressed now sounds, and how. */
export interface LiveRoute {
  readonly track: string;
  /** The device that the track goes to; null for the voices here. */
  readonly device: OutputDevice | null;
  /** Of the device, from 0. */
  readonly channel: number;
  /** How much higher it sounds, in semitones. */
  readonly transpose: number;
}

/** Keys and pedals that are down, each with where it sounds: there it is let go, whatever was chosen meanwhile. */
export class LiveRoutes {
  private readonly down = new Map<string, LiveRoute>();

  /** Where a message goes. @param now where it would go if it were the first */
  of(bytes: MidiBytes, now: () => LiveRoute): LiveRoute {
    const isPedal = (bytes[0] & 0xf0) === 0xb0 && isPedalNumber(bytes[1]);
    const key = isPedal ? `pedal ${bytes[1]}` : `key ${bytes[1]}`;
    const route = this.down.get(key);
    if (isNoteOn(bytes) || (isPedal && bytes[2] > 0)) {
      const struck = route ?? now();
      this.down.set(key, struck);
      return struck;
    }
    if (!route || !(isNoteOff(bytes) || isPedal)) return now();
    this.down.delete(key);
    return route;
  }
}
