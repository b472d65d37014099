import { Unzip, UnzipInflate, unzipSync, type UnzipFileInfo } from 'fflate';
import { SongFileError } from './problem';

/** What could be read of a zip file. */
export interface Unzipped {
  readonly entries: ReadonlyMap<string, Uint8Array>;
  /** Its end is missing: there may have been more. */
  readonly cutOff: boolean;
}

/** A song file is no larger than this, packed or unpacked, in bytes. */
export const MOST_SONG_FILE = 1_500_000_000;
/** The song and its history are no larger than this each: a JavaScript string ends there. */
const MOST_JSON = 500_000_000;
const MOST_ENTRIES = 10_003;

const LOCAL_HEADER = [0x50, 0x4b, 0x03, 0x04];

/**
 * The entries of a zip file that a song file can have; others are passed over. Sizes are looked at before anything is
 * unpacked, and no entry is unpacked beyond what it says.
 * @throws SongFileError
 */
export function unzip(bytes: Uint8Array): Unzipped {
  if (bytes.length > MOST_SONG_FILE) throw tooLarge();
  if (!LOCAL_HEADER.every((b, i) => bytes[i] === b)) {
    throw new SongFileError('not-song', 'It is no song file of Early Sparrow.');
  }
  const bounds = new Bounds();
  try {
    const found = unzipSync(bytes, { filter: (file) => bounds.take(file) });
    return { entries: new Map(Object.entries(found)), cutOff: false };
  } catch (error) {
    if (error instanceof SongFileError) throw error;
    // Its list of contents is at the end: without it the entries are read as they come.
    return { entries: salvage(bytes), cutOff: true };
  }
}

/** Entries are known by their whole path, so that none can climb anywhere; nothing is written under it. */
const KNOWN = /^(about\.json|song\.json|history\.json|sounds\/[0-9a-f]{64})$/;

/** Deflate makes nothing smaller than by this (zlib technical details, Mark Adler: 1032 to 1). */
const MOST_DEFLATED = 1032;

class Bounds {
  private entries = 0;
  private bytes = 0;

  /** Whether an entry belongs to a song file. @throws SongFileError where it would be too large */
  take({ name, size, originalSize }: Pick<UnzipFileInfo, 'name' | 'size' | 'originalSize'>): boolean {
    if (!KNOWN.test(name)) return false;
    this.entries++;
    this.bytes += originalSize;
    const most = name.endsWith('.json') ? MOST_JSON : MOST_SONG_FILE;
    if (originalSize > MOST_DEFLATED * (size + 1))
      throw new SongFileError('damaged', 'Its entries say sizes that cannot be.');
    if (originalSize > most || this.bytes > MOST_SONG_FILE || this.entries > MOST_ENTRIES) throw tooLarge();
    return true;
  }
}

function tooLarge(): SongFileError {
  return new SongFileError('too-large', 'It is larger than any song file that can be read here.');
}

/** Reads one entry after the other until the file ends. */
function salvage(bytes: Uint8Array): Map<string, Uint8Array> {
  const found = new Map<string, Uint8Array>();
  const bounds = new Bounds();
  const reader = new Unzip((file) => {
    const { name, size = 0, originalSize = 0 } = file;
    if (!bounds.take({ name, size, originalSize })) return;
    const chunks: Uint8Array[] = [];
    let length = 0;
    file.ondata = (error, data, final) => {
      length += data.length;
      // More than it says is damage, too.
      if (error || length > originalSize) return;
      chunks.push(data);
      if (final && length === originalSize) found.set(name, joined(chunks, length));
    };
    file.start();
  });
  reader.register(UnzipInflate);
  try {
    reader.push(bytes, true);
  } catch (error) {
    if (error instanceof SongFileError) throw error;
    // What came before the damage counts.
  }
  return found;
}

function joined(chunks: readonly Uint8Array[], length: number): Uint8Array {
  const all = new Uint8Array(length);
  let at = 0;
  for (const chunk of chunks) {
    all.set(chunk, at);
    at += chunk.length;
  }
  return all;
}
