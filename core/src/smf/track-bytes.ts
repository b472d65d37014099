import type { TrackChunk } from './chunks';
import type { SmfNotice } from './problem';

const END_OF_TRACK = 0x2f;
const SET_TEMPO = 0x51;
const TIME_SIGNATURE = 0x58;
/** A meta type that the standard does not use: the reader hands it on as it is. */
const PLAIN_META = 0x7e;

/** A track that is safe to hand to a reader that trusts its input. */
export interface SafeTrack {
  /** Whole, well-formed events only, closed by an end of track. */
  readonly bytes: Uint8Array;
  /** True meta type of each meta event in order, the end of track not included. */
  readonly metaTypes: readonly number[];
  /** Largest distance between two events in ticks. */
  readonly longestDelta: number;
  readonly notices: readonly SmfNotice[];
}

/**
 * Walks over a track event by event and never past its end. It stops at the first fault and
 * says where it is. Meta events keep their bytes but go under a plain type, because readers
 * refuse or change known types of unusual length; tempo and meter stay what they are.
 */
export function secureTrack(file: Uint8Array, chunk: TrackChunk, track: number): SafeTrack {
  const bytes = new Uint8Array(chunk.end - chunk.start + 4);
  bytes.set(file.subarray(chunk.start, chunk.end));
  const end = chunk.end - chunk.start;
  const metaTypes: number[] = [];
  const notices: SmfNotice[] = [];
  const notice = (code: SmfNotice['code'], at: number, text: string) =>
    notices.push({ code, track, offset: chunk.start + at, text });
  const name = `track ${track + 1}`;
  let at = 0;
  let good = 0;
  let status = 0;
  let longestDelta = 0;
  let closed = false;
  let fault = '';

  const quantity = (): number => {
    let value = 0;
    for (let i = 0; i < 4; i++) {
      if (at >= end) break;
      const byte = bytes[at++];
      value = (value << 7) | (byte & 0x7f);
      if (byte < 0x80) return value;
    }
    fault = at >= end ? 'cut' : 'a number that is too long';
    return 0;
  };

  while (at < end && !closed) {
    const delta = quantity();
    if (fault) break;
    if (at >= end) {
      fault = 'cut';
      break;
    }
    const first = bytes[at];
    if (first === 0xff) {
      const typeAt = at + 1;
      at += 2;
      const length = at <= end ? quantity() : ((fault = 'cut'), 0);
      if (!fault && at + length > end) fault = 'cut';
      if (fault) break;
      const type = bytes[typeAt];
      if (type > 0x7f) {
        fault = `an unknown meta event ${hex(type)}`;
        break;
      }
      if (type === END_OF_TRACK) {
        closed = true;
        if (length > 0) bytes[typeAt + 1] = 0;
      } else if (!isPlainTempo(bytes, type, length, at) && !isPlainMeter(bytes, type, length, at))
        bytes[typeAt] = PLAIN_META;
      if (!closed) metaTypes.push(type);
      at = closed ? typeAt + 2 : at + length;
    } else if (first === 0xf0 || first === 0xf7) {
      at++;
      const length = quantity();
      if (!fault && at + length > end) fault = 'cut';
      if (fault) break;
      at += length;
    } else if (first > 0xf0) {
      fault = `a byte ${hex(first)} that has no place in a file`;
      break;
    } else {
      if (first >= 0x80) {
        status = first;
        at++;
      } else if (status === 0) {
        fault = 'notes without saying of which kind (running status without a status)';
        break;
      }
      const size = status >= 0xc0 && status < 0xe0 ? 1 : 2;
      if (at + size > end) {
        fault = 'cut';
        break;
      }
      if (bytes[at] > 0x7f || (size === 2 && bytes[at + 1] > 0x7f)) {
        fault = `a data byte above 127`;
        break;
      }
      at += size;
    }
    if (delta > longestDelta) longestDelta = delta;
    good = at;
  }
  if (fault === 'cut') {
    notice(
      'truncated',
      good,
      `The last event of ${name} is cut off at byte ${chunk.start + good}; all before it was opened.`,
    );
  } else if (fault) {
    notice(
      'bad-event',
      good,
      `At byte ${chunk.start + good} ${name} has ${fault}; what follows in this track was left out.`,
    );
  } else if (closed && good < end) {
    notice(
      'after-end-of-track',
      good,
      `${end - good} bytes after the end of ${name} (byte ${chunk.start + good}) were left out.`,
    );
  } else if (!closed) {
    notice(
      'no-end-of-track',
      good,
      `Nothing marks the end of ${name} (byte ${chunk.start + good}); it ends with its last event.`,
    );
  }
  if (!closed) {
    bytes.set([0x00, 0xff, END_OF_TRACK, 0x00], good);
    good += 4;
  }
  return { bytes: bytes.subarray(0, good), metaTypes, longestDelta, notices };
}

function isPlainTempo(bytes: Uint8Array, type: number, length: number, at: number): boolean {
  return type === SET_TEMPO && length === 3 && (bytes[at] | bytes[at + 1] | bytes[at + 2]) > 0;
}

/** A time signature that survives reading and writing unchanged and makes sense as a meter. */
function isPlainMeter(bytes: Uint8Array, type: number, length: number, at: number): boolean {
  return type === TIME_SIGNATURE && length === 4 && bytes[at] > 0 && bytes[at + 1] <= 6 && bytes[at + 3] > 0;
}

function hex(byte: number): string {
  return byte.toString(16).toUpperCase().padStart(2, '0');
}
