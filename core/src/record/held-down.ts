import { isPedalNumber } from '../song';
import { isNoteOff, isNoteOn, type MidiBytes } from './message';

/** Where the pitch wheel rests, as its two data bytes. */
const CENTRE = [0, 64] as const;

/** Keys, pedals and wheels that a device holds, told by what it sent. */
export class HeldDown {
  private readonly held = new Map<string, MidiBytes>();

  hear(bytes: MidiBytes): void {
    const [status, first, second] = bytes;
    const [kind, channel] = [status & 0xf0, status & 0x0f];
    if (isNoteOn(bytes)) this.held.set(`key ${channel} ${first}`, [0x80 | channel, first, 64]);
    else if (isNoteOff(bytes)) this.held.delete(`key ${channel} ${first}`);
    else if (kind === 0xb0 && isPedalNumber(first)) {
      this.mark(`pedal ${channel} ${first}`, second > 0, [status, first, 0]);
    } else if (kind === 0xe0) {
      this.mark(`wheel ${channel}`, first !== CENTRE[0] || second !== CENTRE[1], [status, ...CENTRE]);
    }
  }

  /** The messages that let all of it go. */
  up(): MidiBytes[] {
    return [...this.held.values()];
  }

  /** Forgets all of it. */
  clear(): void {
    this.held.clear();
  }

  private mark(key: string, isHeld: boolean, letsGo: MidiBytes): void {
    if (isHeld) this.held.set(key, letsGo);
    else this.held.delete(key);
  }
}
