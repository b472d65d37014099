import { inject, Injectable } from '@angular/core';
import { z } from 'zod';
import { digest, freeName, MOST_SONG_FILE } from '@early-sparrow/core/keeping';
import { RecipeSchema } from '@early-sparrow/core/recipe';
import { RuleSchema } from '@early-sparrow/core/rules';
import { countedFirst } from '../common/format';
import { BlobReader, BlobWriter, ZipReader, type FileEntry } from '../common/zip';
import { SongFiles } from '../storage/song-files';
import { SongStore } from '../storage/song-store';
import {
  BackupSchema,
  BANKS,
  LIST,
  MOST_LIST,
  RECIPES,
  RULES,
  SETTINGS,
  SettingsSchema,
  type BackupList,
} from './backup-format';

const NO_BACKUP = 'It is no backup of Early Sparrow, or it is cut off. Copy it again from where it came.';
/** No more recipes or rules than this are read. */
const MOST_NAMED = 10_000;

/** A file that is no backup, or cannot be used; the message says why and what to do. */
export class BackupError extends Error {}

/** What a backup brought. */
export interface Brought {
  readonly songs: number;
  /** Were there already, just as they are in the backup. */
  readonly same: number;
  /** Are there in another state: the backup's stands beside it. */
  readonly beside: number;
  /** Names of what could not be read. */
  readonly damaged: readonly string[];
  readonly recipes: number;
  readonly rules: number;
}

type Song = BackupList['songs'][number];

/** Brings a backup back by merging: nothing that is there is replaced. */
@Injectable({ providedIn: 'root' })
export class BackupIn {
  private readonly songs = inject(SongStore);
  private readonly files = inject(SongFiles);

  /**
   * Each song is brought in whole or not at all; what was brought stays where it is interrupted, and a second time it is
   * known to be there.
   * @throws BackupError
   */
  async read(file: Blob, told: (done: number, all: number) => void, signal: AbortSignal): Promise<Brought> {
    const zip = new ZipReader(new BlobReader(file), { checkSignature: true });
    const entries = await this.entries(zip);
    const value = parsed(await this.text(entries, LIST));
    const list = BackupSchema.safeParse(value);
    if (!list.success) throw new BackupError(newer(value) ?? NO_BACKUP);
    const brought = { songs: 0, same: 0, beside: 0, damaged: [] as string[], recipes: 0, rules: 0 };
    const { songs, made } = list.data;
    for (const [i, song] of songs.entries()) {
      signal.throwIfAborted();
      told(i, songs.length);
      const became = await this.song(song, entries, made);
      if (became === 'damaged') brought.damaged.push(song.name);
      else brought[became]++;
    }
    brought.recipes = await this.recipes(entries);
    brought.rules = await this.rules(entries);
    await this.banks(entries);
    await this.settings(entries);
    await zip.close();
    return brought;
  }

  private async entries(zip: ZipReader<Blob>): Promise<Map<string, FileEntry>> {
    try {
      const all = await zip.getEntries();
      return new Map(all.filter((e): e is FileEntry => !e.directory).map((e) => [e.filename, e]));
    } catch {
      throw new BackupError(NO_BACKUP);
    }
  }

  private async song(
    { path, id, name, created, changed, sha256 }: Song,
    entries: ReadonlyMap<string, FileEntry>,
    made: string,
  ): Promise<'songs' | 'same' | 'beside' | 'damaged'> {
    const there = await this.songs.info(id);
    const besideName = `${name} (backup of ${made.slice(0, 10)})`.slice(0, 200);
    if (there && ((await this.isSame(id, sha256)) || (await this.songs.hasName(besideName)))) return 'same';
    const bytes = await this.bytes(entries.get(path), MOST_SONG_FILE);
    const read = bytes && (await this.files.read(bytes));
    if (!read?.history) return 'damaged';
    const { history, sounds } = read;
    if (!there) {
      await this.songs.addWhole(history, sounds, { id, created, changed });
      return 'songs';
    }
    await this.songs.addWhole({ ...history, song: { ...history.song, name: besideName } }, sounds);
    return 'beside';
  }

  /** Whether a song that is there is just as it is in the backup. */
  private async isSame(id: string, sha256: string): Promise<boolean> {
    const kept = await this.songs.open(id, false).catch(() => undefined);
    return kept !== undefined && (await digest(await this.files.write(id, kept.history, true))) === sha256;
  }

  private async recipes(entries: ReadonlyMap<string, FileEntry>): Promise<number> {
    const read = z
      .array(RecipeSchema)
      .max(MOST_NAMED)
      .safeParse(parsed(await this.text(entries, RECIPES)));
    const fresh = freshOf(read.data ?? [], await this.songs.recipes.toArray());
    for (const recipe of fresh) await this.songs.recipes.put(recipe);
    return fresh.length;
  }

  private async rules(entries: ReadonlyMap<string, FileEntry>): Promise<number> {
    const read = z
      .array(RuleSchema)
      .max(MOST_NAMED)
      .safeParse(parsed(await this.text(entries, RULES)));
    const fresh = freshOf(read.data ?? [], await this.songs.rules.toArray());
    for (const rule of fresh) await this.songs.rules.put(rule);
    return fresh.length;
  }

  private async banks(entries: ReadonlyMap<string, FileEntry>): Promise<void> {
    // One bank at a time is kept: the one that is there stays.
    if ((await this.songs.banks.count()) > 0) return;
    for (const [path, entry] of entries) {
      if (!path.startsWith(BANKS)) continue;
      const blob = await this.bytes(entry, MOST_SONG_FILE);
      if (blob) await this.songs.banks.put({ name: path.slice(BANKS.length), bytes: await blob.arrayBuffer() });
      return;
    }
  }

  /** Settings that are not made here yet. */
  private async settings(entries: ReadonlyMap<string, FileEntry>): Promise<void> {
    const read = SettingsSchema.safeParse(parsed(await this.text(entries, SETTINGS)));
    for (const [name, value] of Object.entries(read.data ?? {})) {
      if (localStorage.getItem(name) === null) localStorage.setItem(name, value);
    }
  }

  private async text(entries: ReadonlyMap<string, FileEntry>, path: string): Promise<string | null> {
    return (await (await this.bytes(entries.get(path), MOST_LIST))?.text()) ?? null;
  }

  /** Null where it is missing, too large or damaged. */
  private async bytes(entry: FileEntry | undefined, most: number): Promise<Blob | null> {
    if (!entry || entry.uncompressedSize > most) return null;
    return entry.getData(new BlobWriter()).catch(() => null);
  }
}

/** What is not there yet; one of a name that is taken gets another. */
function freshOf<T extends { readonly name: string }>(read: readonly T[], there: readonly T[]): T[] {
  const said = new Set(there.map(withoutName));
  const names = new Set(there.map((one) => one.name));
  return read.flatMap((one) => {
    if (said.has(withoutName(one))) return [];
    const name = freeName(one.name, (n) => names.has(n));
    names.add(name);
    return [{ ...one, name }];
  });
}

/** What it says beside its name. */
const withoutName = (one: object) => JSON.stringify({ ...one, name: '' });

function parsed(text: string | null): unknown {
  try {
    return JSON.parse(text ?? '');
  } catch {
    return undefined;
  }
}

function newer(value: unknown): string | null {
  const { kind, version } = (value ?? {}) as { kind?: unknown; version?: unknown };
  if (kind !== 'early-sparrow-backup' || typeof version !== 'number' || version <= 1) return null;
  return 'A newer version of Early Sparrow wrote this backup. Update this program and bring it back again.';
}

/** What a backup brought, in words. */
export function broughtWords({ songs, same, beside, damaged, recipes, rules }: Brought): string {
  return [
    songs > 0 ? `${countedFirst(songs, 'song')} came back.` : 'No song was missing.',
    same > 0 ? `${countedFirst(same, 'song')} ${same === 1 ? 'was' : 'were'} there already.` : '',
    beside > 0 ? `${countedFirst(beside, 'song')} had changed since: the backup’s stand beside yours.` : '',
    recipes > 0 ? `${countedFirst(recipes, 'recipe')} came back.` : '',
    rules > 0 ? `${countedFirst(rules, 'rule')} came back.` : '',
    damaged.length > 0 ? `Damaged, and not brought back: ${damaged.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}
