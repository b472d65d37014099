import { inject, Injectable } from '@angular/core';
import * as z from 'zod';
import { digest, freeName, MOST_SONG_FILE } from '@early-sparrow/core/keeping';
import { RecipeSchema } from '@early-sparrow/core/recipe';
import { RuleSchema } from '@early-sparrow/core/rules';
import { countedFirst } from '../common/format';
import { SongFiles } from '../storage/song-files';
import { SongStore } from '../storage/song-store';
import { entriesOf, type Entries } from './backup-entries';
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

const NO_BACKUP = 'It is no backup of Early Sparrow, or it is damaged. Copy it again from where it came.';
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
  /** Names of songs that could not be read. */
  readonly damaged: readonly string[];
  /** Names of songs that stood behind where the backup breaks off. */
  readonly lost: readonly string[];
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
    const entries = await entriesOf(file);
    if (!entries) throw new BackupError(NO_BACKUP);
    const value = parsed(await text(entries, LIST));
    const list = BackupSchema.safeParse(value);
    if (!list.success) throw new BackupError(newer(value) ?? NO_BACKUP);
    const brought = {
      songs: 0,
      same: 0,
      beside: 0,
      damaged: [] as string[],
      lost: [] as string[],
      recipes: 0,
      rules: 0,
    };
    const { songs, made } = list.data;
    for (const [i, song] of songs.entries()) {
      signal.throwIfAborted();
      told(i, songs.length);
      const became = await this.song(song, entries, made);
      if (became === 'damaged' || became === 'lost') brought[became].push(song.name);
      else brought[became]++;
    }
    brought.recipes = await this.recipes(entries);
    brought.rules = await this.rules(entries);
    await this.banks(entries);
    await this.settings(entries);
    return brought;
  }

  private async song(
    { path, id, name, created, changed }: Song,
    entries: Entries,
    made: string,
  ): Promise<'songs' | 'same' | 'beside' | 'damaged' | 'lost'> {
    const bytes = await entries.bytes(path, MOST_SONG_FILE);
    if (!bytes) return entries.cutOff && !entries.paths.includes(path) ? 'lost' : 'damaged';
    const there = await this.songs.info(id);
    const besideName = `${name} (backup of ${made.slice(0, 10)})`.slice(0, 200);
    if (there && ((await this.isSame(id, bytes)) || (await this.songs.hasName(besideName)))) return 'same';
    const read = await this.files.read(bytes);
    if (!read.history) return 'damaged';
    const { history, sounds } = read;
    if (!there) {
      await this.songs.addWhole(history, sounds, { id, created, changed });
      return 'songs';
    }
    await this.songs.addWhole({ ...history, song: { ...history.song, name: besideName } }, sounds);
    return 'beside';
  }

  /** Whether a song that is there is just as it is in the backup. */
  private async isSame(id: string, bytes: Blob): Promise<boolean> {
    const kept = await this.songs.open(id, false).catch(() => undefined);
    if (!kept) return false;
    const own = await this.files.write(id, kept.history, true);
    return (
      own.length === bytes.size && (await digest(own)) === (await digest(new Uint8Array(await bytes.arrayBuffer())))
    );
  }

  private async recipes(entries: Entries): Promise<number> {
    const read = z
      .array(RecipeSchema)
      .max(MOST_NAMED)
      .safeParse(parsed(await text(entries, RECIPES)));
    const fresh = freshOf(read.data ?? [], await this.songs.recipes.toArray());
    for (const recipe of fresh) await this.songs.recipes.put(recipe);
    return fresh.length;
  }

  private async rules(entries: Entries): Promise<number> {
    const read = z
      .array(RuleSchema)
      .max(MOST_NAMED)
      .safeParse(parsed(await text(entries, RULES)));
    const fresh = freshOf(read.data ?? [], await this.songs.rules.toArray());
    for (const rule of fresh) await this.songs.rules.put(rule);
    return fresh.length;
  }

  private async banks(entries: Entries): Promise<void> {
    // One bank at a time is kept: the one that is there stays.
    if ((await this.songs.banks.count()) > 0) return;
    const path = entries.paths.find((p) => p.startsWith(BANKS));
    const blob = path && (await entries.bytes(path, MOST_SONG_FILE));
    if (blob) await this.songs.banks.put({ name: path.slice(BANKS.length), bytes: await blob.arrayBuffer() });
  }

  /** Settings that are not made here yet. */
  private async settings(entries: Entries): Promise<void> {
    const read = SettingsSchema.safeParse(parsed(await text(entries, SETTINGS)));
    for (const [name, value] of Object.entries(read.data ?? {})) {
      if (localStorage.getItem(name) === null) localStorage.setItem(name, value);
    }
  }
}

async function text(entries: Entries, path: string): Promise<string | null> {
  return (await (await entries.bytes(path, MOST_LIST))?.text()) ?? null;
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
export function broughtWords({ songs, same, beside, damaged, lost, recipes, rules }: Brought): string {
  return [
    songs > 0 ? `${countedFirst(songs, 'song')} came back.` : lost.length > 0 ? '' : 'No song was missing.',
    same > 0 ? `${countedFirst(same, 'song')} ${same === 1 ? 'was' : 'were'} there already.` : '',
    beside > 0 ? `${countedFirst(beside, 'song')} had changed since: the backup’s stand beside yours.` : '',
    recipes > 0 ? `${countedFirst(recipes, 'recipe')} came back.` : '',
    rules > 0 ? `${countedFirst(rules, 'rule')} came back.` : '',
    lost.length > 0
      ? `The backup breaks off: ${countedFirst(lost.length, 'song')} ${lost.length === 1 ? 'is' : 'are'} missing from it, “${lost[0]}” first. Copy it again from where it came.`
      : '',
    damaged.length > 0 ? `Damaged, and not brought back: ${damaged.join(', ')}.` : '',
  ]
    .filter(Boolean)
    .join(' ');
}
