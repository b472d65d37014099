import type { TrackEvent } from '../song';
import { writeText } from '../song';

/** Longest distance between two events that a variable-length quantity can say, in ticks (RP-001). */
export const MAX_DELTA = 0x0fffffff;

/** Bytes that grow as they are written. */
class Bytes {
  private bytes = new Uint8Array(1024);
  private length = 0;

  push(...few: number[]): void {
    this.need(few.length);
    for (const byte of few) this.bytes[this.length++] = byte;
  }

  add(data: Uint8Array): void {
    this.need(data.length);
    this.bytes.set(data, this.length);
    this.length += data.length;
  }

  /** A variable-length quantity of 0 to 0x0FFFFFFF. */
  quantity(value: number): void {
    if (value >= 1 << 21) this.push((value >> 21) | 0x80);
    if (value >= 1 << 14) this.push(((value >> 14) & 0x7f) | 0x80);
    if (value >= 1 << 7) this.push(((value >> 7) & 0x7f) | 0x80);
    this.push(value & 0x7f);
  }

  done(): Uint8Array {
    return this.bytes.subarray(0, this.length);
  }

  private need(more: number): void {
    if (this.length + more <= this.bytes.length) return;
    const larger = new Uint8Array(Math.max(this.bytes.length * 2, this.length + more));
    larger.set(this.bytes);
    this.bytes = larger;
  }
}

/** A note-on or a note-off on its way into a file. */
export interface NoteEdge {
  readonly type: 'on' | 'off';
  readonly channel: number;
  readonly pitch: number;
  /** Null for a note-off: it is written as a note-on of velocity 0. */
  readonly velocity: number | null;
}

/** What a file's track holds beside notes, tempo and meter included. */
export type FileEvent = NoteEdge | TrackEvent;

/** Writes a track's events, in order, each with its tick, and an end of track. No running status is used. */
export function encodeTrack(
  events: Iterable<{ readonly tick: number; readonly event: FileEvent }>,
  end: number,
): Uint8Array {
  const bytes = new Bytes();
  let at = 0;
  const goTo = (tick: number) => {
    // A distance that is too long for the format is bridged by empty texts.
    for (; tick - at > MAX_DELTA; at += MAX_DELTA) {
      bytes.quantity(MAX_DELTA);
      bytes.push(0xff, 0x01, 0);
    }
    bytes.quantity(tick - at);
    at = tick;
  };
  for (const { tick, event } of events) {
    goTo(tick);
    writeEvent(bytes, event);
  }
  goTo(Math.max(end, at));
  bytes.push(0xff, 0x2f, 0);
  return bytes.done();
}

function writeEvent(bytes: Bytes, event: FileEvent): void {
  switch (event.type) {
    case 'on':
      bytes.push(0x90 | event.channel, event.pitch, event.velocity ?? 64);
      break;
    case 'off':
    case 'stray-off':
      bytes.push((event.velocity === null ? 0x90 : 0x80) | event.channel, event.pitch, event.velocity ?? 0);
      break;
    case 'controller':
      bytes.push(0xb0 | event.channel, event.controller, event.value);
      break;
    case 'bend':
      bytes.push(0xe0 | event.channel, (event.value + 8192) & 0x7f, (event.value + 8192) >> 7);
      break;
    case 'pressure':
      bytes.push(0xd0 | event.channel, event.value);
      break;
    case 'key-pressure':
      bytes.push(0xa0 | event.channel, event.pitch, event.value);
      break;
    case 'program':
      bytes.push(0xc0 | event.channel, event.program);
      break;
    case 'meta':
      bytes.push(0xff, event.meta);
      bytes.quantity(event.data.length);
      bytes.add(event.data);
      break;
    default:
      bytes.push(event.type === 'sysex' ? 0xf0 : 0xf7);
      bytes.quantity(event.data.length);
      bytes.add(event.data);
  }
}

/** A chunk with its type and length. */
export function chunk(type: string, data: Uint8Array): Uint8Array {
  const bytes = new Uint8Array(8 + data.length);
  bytes.set(writeText(type));
  new DataView(bytes.buffer).setUint32(4, data.length);
  bytes.set(data, 8);
  return bytes;
}

export function joined(chunks: readonly Uint8Array[]): Uint8Array {
  const whole = new Uint8Array(chunks.reduce((sum, c) => sum + c.length, 0));
  let at = 0;
  for (const c of chunks) {
    whole.set(c, at);
    at += c.length;
  }
  return whole;
}
