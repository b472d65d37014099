import { inject, Injectable } from '@angular/core';
import { digest, MOST_SONG_FILE } from '@early-sparrow/core/keeping';
import { RecipeSchema, type Recipe } from '@early-sparrow/core/recipe';
import { RuleSchema, type Rule } from '@early-sparrow/core/rules';
import { longerTitle } from '@early-sparrow/core/song';
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
import { bringNamed } from './named-in';

const NO_BACKUP = 'It is no backup of Early Sparrow, or it is damaged. Copy it again from where it came.';

const asRecipe = (value: unknown): Recipe | undefined => RecipeSchema.safeParse(value).data;
const asRule = (value: unknown): Rule | undefined => RuleSchema.safeParse(value).data;

/** A file that is no backup, or cannot be used; the message says why and what to do. */
export class BackupError extends Error {}

/** What a backup brought. */
export interface Brought {
  readonly songs: number;
  /** Were there already, just as they are in the backup. */
  readonly same: number;
  /** Are there in another state: the backup's stands beside it. */
  readonly beside: number;
  /** Names of songs, recipes and rules that could not be read. */
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
    const listed = async (path: string) => parsed(await text(entries, path));
    const recipes = await bringNamed(await listed(RECIPES), asRecipe, this.songs.recipes);
    const rules = await bringNamed(await listed(RULES), asRule, this.songs.rules);
    brought.recipes = recipes.came;
    brought.rules = rules.came;
    brought.damaged.push(...recipes.damaged, ...rules.damaged);
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
    if (!(await this.songs.info(id))) return (await this.bring(bytes, { id, created, changed })) ? 'songs' : 'damaged';
    const state = await digest(new Uint8Array(await bytes.arrayBuffer()));
    const beside = await idBeside(id, state);
    if ((await this.songs.info(beside)) || (await this.isSame(id, bytes.size, state))) return 'same';
    const as = { id: beside, created, changed: new Date().toISOString() };
    const title = longerTitle(name, ` (backup of ${made.slice(0, 10)})`);
    return (await this.bring(bytes, as, title)) ? 'beside' : 'damaged';
  }

  /** Keeps the song in a file, under another name where one is given. @returns whether it could be read */
  private async bring(bytes: Blob, as: Pick<Song, 'id' | 'created' | 'changed'>, name?: string): Promise<boolean> {
    const read = await this.files.read(bytes);
    if (!read.history) return false;
    const { song, ...steps } = read.history;
    await this.songs.addWhole({ ...steps, song: { ...song, name: name ?? song.name } }, read.sounds, as);
    return true;
  }

  /** Whether a song that is there is just as it is in the backup. @param state SHA-256 of its file there */
  private async isSame(id: string, size: number, state: string): Promise<boolean> {
    // As it is on the disk, in the order in which it is written there.
    const kept = await this.songs.journal.open(id, false).catch(() => undefined);
    if (!kept) return false;
    const own = await this.files.write(id, kept.history, true);
    return own.length === size && (await digest(own)) === state;
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

/**
 * The id for a copy of a song in the state that a backup holds. The same state always gets the same id, so it is brought in
 * only once, even if the copy was renamed (RFC 9562, version 8).
 */
async function idBeside(id: string, state: string): Promise<string> {
  const hex = await digest(new TextEncoder().encode(id + state));
  const parts = [
    hex.slice(0, 8),
    hex.slice(8, 12),
    `8${hex.slice(13, 16)}`,
    `8${hex.slice(17, 20)}`,
    hex.slice(20, 32),
  ];
  return parts.join('-');
}

async function text(entries: Entries, path: string): Promise<string | null> {
  return (await (await entries.bytes(path, MOST_LIST))?.text()) ?? null;
}

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
