import type { Ticks } from '../time';
import type { Note, SongMeter, SongTempo, TrackEvent } from '../song';
import type { TrackChunk } from './chunks';
import type { SmfNotice } from './problem';

const END_OF_TRACK = 0x2f;
export const SET_TEMPO = 0x51;
export const TIME_SIGNATURE = 0x58;

/** A thing that is still being made: the reader gives it an id and its song's ticks later. */
type Raw<T> = { -readonly [K in keyof T]: T[K] };
export type RawNote = Raw<Note>;
export type RawEvent = Raw<TrackEvent>;

/** One track's contents with absolute ticks in the file's own division; notes have no id of their own yet. */
export interface ReadTrack {
  readonly notes: RawNote[];
  readonly events: RawEvent[];
  readonly tempo: readonly SongTempo[];
  readonly meter: readonly SongMeter[];
  readonly end: Ticks;
  /** Largest distance between two events. */
  readonly longestDelta: Ticks;
  readonly notices: readonly SmfNotice[];
}

/** A fault after which the rest of a track cannot be read. */
class Fault {
  constructor(readonly text: string | null) {}
}
/** The last event is cut off. */
const CUT = new Fault(null);

/** Notes of one key that sound, the first to end first; a list that is shortened at its front would be slow. */
interface Waiting {
  readonly notes: OpenNote[];
  next: number;
}
interface OpenNote {
  readonly start: Ticks;
  readonly velocity: number;
  readonly order: number;
}

/**
 * Reads one track of a standard MIDI file event by event, never past its end (RP-001; channel messages by the MIDI
 * 1.0 Detailed Specification). It stops at the first fault and says where it is. Notes of one channel and pitch that
 * overlap are paired first-in first-out; a note without an end lasts to the end of the track.
 */
export function readTrack(file: Uint8Array, chunk: TrackChunk, index: number): ReadTrack {
  return new TrackReader(file, chunk, index).read();
}

class TrackReader {
  private readonly notes: RawNote[] = [];
  private readonly events: RawEvent[] = [];
  private readonly tempo: SongTempo[] = [];
  private readonly meter: SongMeter[] = [];
  private readonly notices: SmfNotice[] = [];
  private readonly open = new Map<number, Waiting>();
  private at: number;
  /** Up to where all was read. */
  private good: number;
  private status = 0;
  private tick: Ticks = 0;
  private order = 0;
  private longestDelta: Ticks = 0;
  private closed = false;

  constructor(
    private readonly bytes: Uint8Array,
    private readonly chunk: TrackChunk,
    private readonly index: number,
  ) {
    this.at = this.good = chunk.start;
  }

  read(): ReadTrack {
    const { end } = this.chunk;
    let fault: Fault | null = null;
    try {
      while (this.at < end && !this.closed) this.event();
    } catch (error) {
      if (!(error instanceof Fault)) throw error;
      fault = error;
    }
    this.tellEnd(fault);
    this.closeAll();
    const { notes, events, tempo, meter, tick, longestDelta, notices } = this;
    return { notes, events, tempo, meter, end: tick, longestDelta, notices };
  }

  private event(): void {
    const delta = this.quantity();
    const first = this.byte();
    const tick = this.tick + delta;
    if (first === 0xff) this.metaEvent(tick);
    else if (first === 0xf0 || first === 0xf7) {
      const data = this.data();
      this.events.push({ tick, order: this.order, type: first === 0xf0 ? 'sysex' : 'sysex-part', data });
    } else if (first > 0xf0) throw new Fault(`a byte ${hex(first)} that has no place in a file`);
    else {
      if (first >= 0x80) this.status = first;
      else if (this.status === 0) {
        throw new Fault('notes without saying of which kind (running status without a status)');
      } else this.at--;
      this.channelMessage(tick);
    }
    this.tick = tick;
    this.order++;
    if (delta > this.longestDelta) this.longestDelta = delta;
    this.good = this.at;
  }

  private byte(): number {
    if (this.at >= this.chunk.end) throw CUT;
    return this.bytes[this.at++];
  }

  /** A variable-length quantity of four bytes at most. */
  private quantity(): number {
    let value = 0;
    for (let i = 0; i < 4; i++) {
      const byte = this.byte();
      value = (value << 7) | (byte & 0x7f);
      if (byte < 0x80) return value;
    }
    throw new Fault('a number that is too long');
  }

  /** Bytes behind their length; a copy, so that a song does not hold on to the whole file. */
  private data(): Uint8Array {
    const length = this.quantity();
    if (this.at + length > this.chunk.end) throw CUT;
    this.at += length;
    return this.bytes.slice(this.at - length, this.at);
  }

  private metaEvent(tick: Ticks): void {
    const type = this.byte();
    const data = this.data();
    const { order } = this;
    if (type > 0x7f) throw new Fault(`an unknown meta event ${hex(type)}`);
    if (type === END_OF_TRACK) {
      this.closed = true;
      return;
    }
    if (type === SET_TEMPO && data.length === 3 && (data[0] | data[1] | data[2]) > 0) {
      this.tempo.push({ tick, order, usPerQuarter: (data[0] << 16) | (data[1] << 8) | data[2] });
    } else if (type === TIME_SIGNATURE && isMeter(data)) {
      const [numerator, power, clocks, thirtySeconds] = data;
      this.meter.push({ tick, order, numerator, denominator: 1 << power, clocks, thirtySeconds });
    } else this.events.push({ tick, order, type: 'meta', meta: type, data });
  }

  private dataByte(): number {
    const byte = this.byte();
    if (byte > 0x7f) throw new Fault('a data byte above 127');
    return byte;
  }

  private channelMessage(tick: Ticks): void {
    const { order } = this;
    const channel = this.status & 0x0f;
    const a = this.dataByte();
    switch (this.status & 0xf0) {
      case 0x80:
        this.noteOff(tick, channel, a, this.dataByte());
        break;
      case 0x90: {
        const velocity = this.dataByte();
        if (velocity === 0) this.noteOff(tick, channel, a, null);
        else this.noteOn(tick, channel, a, velocity);
        break;
      }
      case 0xa0:
        this.events.push({ tick, order, type: 'key-pressure', channel, pitch: a, value: this.dataByte() });
        break;
      case 0xb0:
        this.events.push({ tick, order, type: 'controller', channel, controller: a, value: this.dataByte() });
        break;
      case 0xc0:
        this.events.push({ tick, order, type: 'program', channel, program: a });
        break;
      case 0xd0:
        this.events.push({ tick, order, type: 'pressure', channel, value: a });
        break;
      default:
        this.events.push({ tick, order, type: 'bend', channel, value: a + (this.dataByte() << 7) - 8192 });
    }
  }

  private noteOn(start: Ticks, channel: number, pitch: number, velocity: number): void {
    const key = channel * 128 + pitch;
    const note = { start, velocity, order: this.order };
    const waiting = this.open.get(key);
    if (waiting) waiting.notes.push(note);
    else this.open.set(key, { notes: [note], next: 0 });
  }

  private noteOff(tick: Ticks, channel: number, pitch: number, release: number | null): void {
    const { order } = this;
    const waiting = this.open.get(channel * 128 + pitch);
    if (waiting && waiting.next < waiting.notes.length) {
      this.close(waiting.notes[waiting.next++], channel, pitch, tick, release, order);
    } else this.events.push({ tick, order, type: 'stray-off', channel, pitch, velocity: release });
  }

  private close(
    { start, velocity, order }: OpenNote,
    channel: number,
    pitch: number,
    end: Ticks,
    release: number | null,
    endOrder: number,
  ): void {
    const length = end - start;
    this.notes.push({ id: 0, start, length, pitch, velocity, channel, release, order: [order, endOrder] });
  }

  private closeAll(): void {
    let unended = 0;
    for (const [key, waiting] of this.open) {
      for (const note of waiting.notes.slice(waiting.next)) {
        this.close(note, Math.floor(key / 128), key % 128, this.tick, 64, this.order + unended++);
        this.notes[this.notes.length - 1].unended = true;
      }
    }
    if (unended === 0) return;
    const notes = unended === 1 ? 'One note has' : `${unended} notes have`;
    this.notice('unended-notes', null, `${notes} no end in track ${this.index + 1} and last to the end of the track.`);
  }

  private notice(code: SmfNotice['code'], offset: number | null, text: string): void {
    this.notices.push({ code, track: this.index, offset, text });
  }

  /** Says how the track ended, if not as it should. */
  private tellEnd(fault: Fault | null): void {
    const { good } = this;
    const name = `track ${this.index + 1}`;
    if (fault === CUT) {
      this.notice('truncated', good, `The last event of ${name} is cut off at byte ${good}; all before it was opened.`);
    } else if (fault) {
      this.notice(
        'bad-event',
        good,
        `At byte ${good} ${name} has ${fault.text}; what follows in this track was left out.`,
      );
    } else if (this.closed && good < this.chunk.end) {
      const rest = this.chunk.end - good;
      this.notice('after-end-of-track', good, `${rest} bytes after the end of ${name} (byte ${good}) were left out.`);
    } else if (!this.closed) {
      this.notice(
        'no-end-of-track',
        good,
        `Nothing marks the end of ${name} (byte ${good}); it ends with its last event.`,
      );
    }
  }
}

/** A time signature that makes sense as a meter: n beats, each a note value down to 1/64. */
function isMeter(data: Uint8Array): boolean {
  return data.length === 4 && data[0] > 0 && data[1] <= 6 && data[3] > 0;
}

function hex(byte: number): string {
  return byte.toString(16).toUpperCase().padStart(2, '0');
}
