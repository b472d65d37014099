import { MIDI_NAME, SONG_NAME } from '../common/file-kinds';

/** What was dropped: the MIDI and song files, also those in dropped folders, and what could not be used. */
export interface Dropped {
  readonly files: readonly File[];
  /** Names of folders that hold neither. */
  readonly emptyFolders: readonly string[];
  /** Names of files and folders that could not be read. */
  readonly unread: readonly string[];
}

/** Folders are read this deep, and no further than so many files: a whole disk was not meant. */
const DEEPEST = 6;
const MOST = 5000;

/**
 * Reads dropped files and folders. Folders must be asked for at once, and so must the handles of files, where the
 * browser gives any: the list is gone after the event.
 */
export async function readDropped(transfer: DataTransfer): Promise<Dropped> {
  const items = [...transfer.items].filter((i) => i.kind === 'file');
  const entries = items.map((i) => i.webkitGetAsEntry());
  const handles = items.map((i) => (i as Handling).getAsFileSystemHandle?.().catch(() => null));
  const plain = [...transfer.files];
  const files: File[] = [];
  const emptyFolders: string[] = [];
  const unread: string[] = [];
  for (const [i, entry] of entries.entries()) {
    if (!entry?.isDirectory) {
      const file = plain[i] as File | undefined;
      const handle = await handles[i];
      if (file) files.push(handle?.kind === 'file' ? Object.assign(file, { handle }) : file);
      continue;
    }
    const before = unread.length;
    const found = await filesIn(entry as FileSystemDirectoryEntry, DEEPEST, unread);
    if (found.length === 0 && unread.length === before) emptyFolders.push(entry.name);
    files.push(...found);
  }
  return { files: files.slice(0, MOST), emptyFolders, unread };
}

/** What only some browsers have. */
interface Handling {
  getAsFileSystemHandle?(): Promise<FileSystemHandle | null>;
}

/** @param unread gets the names of what cannot be read: the others come all the same */
async function filesIn(folder: FileSystemDirectoryEntry, deep: number, unread: string[]): Promise<File[]> {
  const found: File[] = [];
  const failed = (name: string) => () => {
    unread.push(name);
    return null;
  };
  for (const entry of (await listed(folder).catch(failed(folder.name))) ?? []) {
    if (found.length >= MOST) break;
    if (entry.isDirectory) {
      if (deep > 0) found.push(...(await filesIn(entry as FileSystemDirectoryEntry, deep - 1, unread)));
    } else if (MIDI_NAME.test(entry.name) || SONG_NAME.test(entry.name)) {
      const file = await fileOf(entry as FileSystemFileEntry).catch(failed(entry.name));
      if (file) found.push(file);
    }
  }
  return found;
}

const fileOf = (entry: FileSystemFileEntry) => new Promise<File>((done, fail) => entry.file(done, fail));

/** A folder gives its entries by and by: it is asked until it has no more. */
async function listed(folder: FileSystemDirectoryEntry): Promise<FileSystemEntry[]> {
  const reader = folder.createReader();
  const all: FileSystemEntry[] = [];
  for (;;) {
    const some = await new Promise<FileSystemEntry[]>((done, fail) => reader.readEntries(done, fail));
    if (some.length === 0) return all.sort((a, b) => a.name.localeCompare(b.name));
    all.push(...some);
  }
}
