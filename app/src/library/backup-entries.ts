import { BlobReader, BlobWriter, ZipReader, type Entry, type FileEntry } from '../common/zip';
import { LIST } from './backup-format';

/** The files in a backup, each read from its place when it is asked for. */
export interface Entries {
  /** The backup breaks off: what is behind is missing. */
  readonly cutOff: boolean;
  readonly paths: readonly string[];
  /** Null where it is missing, damaged or larger than `most` bytes. */
  bytes(path: string, most: number): Promise<Blob | null>;
}

/** Of a local file header (PKWARE APPNOTE 6.3, 4.3.7): its mark, its length, and where in it things stand. */
const MARK = 0x04034b50;
const HEAD = 30;
const AT = { flags: 6, method: 8, size: 22, name: 26, extra: 28 };
/** The sizes stand behind the file, or in another field. */
const SIZE_BEHIND = 8;
const SIZE_ELSEWHERE = 0xffffffff;

/** @returns null where there is no list of songs in it: it is no backup */
export async function entriesOf(file: Blob): Promise<Entries | null> {
  const zip = new ZipReader(new BlobReader(file), { checkSignature: true });
  // Of one that breaks off, the end of the last song in it is taken for its own.
  const all = (await zip.getEntries().catch((): Entry[] => [])).filter((e): e is FileEntry => !e.directory);
  const found = all.some((e) => e.filename === LIST) ? ofWhole(all) : await ofCutOff(file);
  return found.paths.includes(LIST) ? found : null;
}

function ofWhole(all: readonly FileEntry[]): Entries {
  const entries = new Map(all.map((e) => [e.filename, e]));
  return {
    cutOff: false,
    paths: [...entries.keys()],
    async bytes(path, most) {
      const entry = entries.get(path);
      if (!entry || entry.uncompressedSize > most) return null;
      return entry.getData(new BlobWriter()).catch(() => null);
    },
  };
}

/** Goes from file to file as they stand, since the list at the end is gone: backups store them with their sizes. */
async function ofCutOff(file: Blob): Promise<Entries> {
  const found = new Map<string, Blob>();
  for (let at = 0; at + HEAD <= file.size;) {
    const head = new DataView(await file.slice(at, at + HEAD).arrayBuffer());
    if (head.getUint32(0, true) !== MARK) break;
    const [flags, method] = [head.getUint16(AT.flags, true), head.getUint16(AT.method, true)];
    const size = head.getUint32(AT.size, true);
    if (method !== 0 || (flags & SIZE_BEHIND) !== 0 || size === SIZE_ELSEWHERE) break;
    const named = at + HEAD + head.getUint16(AT.name, true);
    const from = named + head.getUint16(AT.extra, true);
    if (from + size > file.size) break;
    found.set(await file.slice(at + HEAD, named).text(), file.slice(from, from + size));
    at = from + size;
  }
  return {
    cutOff: true,
    paths: [...found.keys()],
    bytes: async (path, most) => {
      const blob = found.get(path);
      return blob && blob.size <= most ? blob : null;
    },
  };
}
