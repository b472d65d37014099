import type { Ms } from '../time';

/** A channel message as it is played in (MIDI 1.0): status with its channel, and up to two data bytes. */
export type MidiBytes = readonly [status: number, first: number, second: number];

/** A message while the song plays. */
export interface PlayedMessage {
  /** Song time that was heard when it came, in ms. */
  readonly ms: Ms;
  /** Round of the loop, from 0. */
  readonly round: number;
  /** Which stretch of playing without a jump it belongs to, from 0; left out for the first. */
  readonly pass?: number;
  readonly bytes: MidiBytes;
}

/** Whether it strikes a key; one of velocity 0 lets it go. */
export function isNoteOn([status, , velocity]: MidiBytes): boolean {
  return (status & 0xf0) === 0x90 && velocity > 0;
}

/** Whether it lets a key go. */
export function isNoteOff([status, , velocity]: MidiBytes): boolean {
  return (status & 0xf0) === 0x80 || ((status & 0xf0) === 0x90 && velocity === 0);
}

/**
 * The message in some bytes that a device sent; null for what is not for one channel, and for what is cut off.
 * Devices send whole messages (Web MIDI API), so that there is no running status.
 */
export function messageOf(data: ArrayLike<number>): MidiBytes | null {
  const status = data[0] ?? 0;
  if (status < 0x80 || status >= 0xf0) return null;
  const kind = status & 0xf0;
  const length = kind === 0xc0 || kind === 0xd0 ? 2 : 3;
  if (data.length < length) return null;
  const [first, second] = [data[1], length === 3 ? data[2] : 0];
  return first > 127 || second > 127 ? null : [status, first, second];
}

/** A message some semitones higher, as its track sounds; null for a key beyond the last. Other messages stay as they are. */
export function transposed(bytes: MidiBytes, semitones: number): MidiBytes | null {
  const [status, first, second] = bytes;
  const kind = status & 0xf0;
  if (semitones === 0 || kind < 0x80 || kind > 0xa0) return bytes;
  const pitch = first + semitones;
  return pitch < 0 || pitch > 127 ? null : [status, pitch, second];
}

/** A message as it goes out on a channel (0 to 15): programs and pressure are one byte shorter. */
export function onChannel([status, first, second]: MidiBytes, channel: number): number[] {
  const kind = status & 0xf0;
  return kind === 0xc0 || kind === 0xd0 ? [kind | channel, first] : [kind | channel, first, second];
}
