import { SmfError, type SmfNotice } from './problem';

/** Larger files are refused: a million notes take about 8 MB. */
export const MAX_BYTES = 16 * 1024 * 1024;
/** More tracks than this are no song. */
const MAX_TRACKS = 2000;

/** A track chunk's bytes in the file. */
export interface TrackChunk {
  readonly start: number;
  readonly end: number;
}

export interface FileLayout {
  readonly format: number;
  /** The two bytes of the division. */
  readonly division: number;
  readonly tracks: readonly TrackChunk[];
  readonly others: readonly { type: string; data: Uint8Array }[];
  readonly notices: readonly SmfNotice[];
}

/**
 * Finds header and chunks of a standard MIDI file without trusting a length in it.
 * Chunks of unknown types are kept aside, as RP-001 asks readers to expect them.
 * @throws SmfError where there is no usable header or no track
 */
export function layOut(bytes: Uint8Array): FileLayout {
  if (bytes.length === 0) throw new SmfError('empty', 0, 'The file is empty.');
  if (bytes.length > MAX_BYTES) throw new SmfError('too-large', MAX_BYTES, 'The file is larger than 16 MB.');
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  const begin = headerAt(bytes);
  if (begin < 0) throw new SmfError('not-midi', 0, 'The file does not begin as a standard MIDI file does.');
  if (bytes.length < begin + 14) throw new SmfError('bad-header', bytes.length, 'The file ends inside its header.');
  const headerLength = view.getUint32(begin + 4);
  const format = view.getUint16(begin + 8);
  const declared = view.getUint16(begin + 10);
  const division = view.getUint16(begin + 12);
  if (headerLength < 6) throw new SmfError('bad-header', begin + 4, 'The header is shorter than six bytes.');
  if (division === 0)
    throw new SmfError('bad-header', begin + 12, 'The file gives no number of ticks per quarter note.');

  const notices: SmfNotice[] = [];
  const tracks: TrackChunk[] = [];
  const others: { type: string; data: Uint8Array }[] = [];
  // A header length that leads past the file is a lie; the standard's six bytes are the best guess then.
  let at = begin + 8 + (begin + 8 + headerLength <= bytes.length ? headerLength : 6);
  while (at + 8 <= bytes.length) {
    const type = String.fromCharCode(...bytes.subarray(at, at + 4));
    if (!/^[\x20-\x7e]{4}$/.test(type)) break;
    const length = view.getUint32(at + 4);
    const start = at + 8;
    const end = Math.min(start + length, bytes.length);
    if (type === 'MTrk') {
      if (start + length > bytes.length) {
        notices.push({
          code: 'truncated',
          track: tracks.length,
          offset: bytes.length,
          text: `Track ${tracks.length + 1} should have ${length} bytes but the file ends after ${end - start} (byte ${bytes.length}); what is there was opened.`,
        });
      }
      tracks.push({ start, end });
    } else others.push({ type, data: bytes.slice(start, end) });
    at = end;
  }
  if (at < bytes.length) {
    notices.push({
      code: 'trailing-bytes',
      track: null,
      offset: at,
      text: `${bytes.length - at} bytes from byte ${at} on belong to no track and were left out.`,
    });
  }
  if (tracks.length === 0) throw new SmfError('no-tracks', at, 'The file has a header but no tracks.');
  if (tracks.length > MAX_TRACKS) {
    throw new SmfError('unreasonable', begin + 10, `The file has ${tracks.length} tracks, more than ${MAX_TRACKS}.`);
  }
  if (tracks.length !== declared) {
    notices.push({
      code: 'track-count',
      track: null,
      offset: begin + 10,
      text: `The header promises ${declared} tracks but the file has ${tracks.length}; all ${tracks.length} were opened.`,
    });
  }
  return { format, division, tracks, others, notices };
}

/** Where the header is: at byte 0, or in the data chunk of a RIFF wrapper, whatever chunks come before that. */
function headerAt(bytes: Uint8Array): number {
  const is = (at: number, text: string) => [...text].every((c, i) => bytes[at + i] === c.charCodeAt(0));
  if (is(0, 'MThd')) return 0;
  if (!is(0, 'RIFF') || !is(8, 'RMID')) return -1;
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  // RIFF chunks are padded to an even length; their lengths are little-endian.
  for (let at = 12; at + 8 <= bytes.length;) {
    if (is(at, 'data')) return is(at + 8, 'MThd') ? at + 8 : -1;
    const length = view.getUint32(at + 4, true);
    at += 8 + length + (length & 1);
  }
  return -1;
}
