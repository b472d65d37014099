import { strFromU8, strToU8, zipSync, type Zippable } from 'fflate';
import * as z from 'zod';
import { readableSteps, startHistory, type History, type Step } from '../edit';
import { readSong, SongFormatError, type Song } from '../song';
import { fromJson, toJson } from './json';
import { digest } from '../maths';
import { SongFileError } from './problem';
import { unzip, type Unzipped } from './unzip';

/** The version of the song file that this program writes. Older ones can always be read. */
export const SONG_FILE_VERSION = 1;

const Digest = z.string().regex(/^[0-9a-f]{64}$/, 'a SHA-256 in hex is expected');

/** `about.json`: what the file is, and what has to be in it. */
export const AboutSchema = z.object({
  kind: z.literal('early-sparrow-song'),
  version: z.literal(SONG_FILE_VERSION),
  /** Of the song. */
  name: z.string().max(200),
  /** Its other entries, each with its length in bytes and the SHA-256 of it in hex. */
  entries: z
    .array(z.object({ path: z.string().max(300), size: z.int().min(0), sha256: Digest }))
    .max(10_000)
    .readonly(),
  /** The sound files that the song plays along: the name that each came with, and its entry. */
  sounds: z
    .array(z.object({ file: Digest, name: z.string().max(200), path: z.string().max(300) }))
    .max(10_000)
    .readonly(),
});

/** `history.json`: what undo and redo would do, the newest step last. */
export const HistorySchema = z.object({
  undo: z.array(z.unknown()).max(1000).readonly(),
  redo: z.array(z.unknown()).max(1000).readonly(),
});

/** A sound file as it came. */
export interface SoundFile {
  /** SHA-256 of its bytes, in hex: what the song names it by. */
  readonly file: string;
  readonly name: string;
  readonly bytes: Uint8Array;
}

/** All that a song file holds. */
export interface SongFile {
  /** The song with what was done to it; without steps where the history was left out. */
  readonly history: History;
  readonly sounds: readonly SoundFile[];
}

export interface ReadSongFile extends SongFile {
  /** What the file lacks, a sentence each. */
  readonly notices: readonly string[];
}

const ABOUT = 'about.json';
const SONG = 'song.json';
const HISTORY = 'history.json';

/**
 * A song with its sound files, and with its history if wished, as one zip file. The same song always gives the same
 * bytes. The song comes first, so that a file that was cut off still has it.
 */
export async function writeSongFile({ history, sounds }: SongFile, withHistory: boolean): Promise<Uint8Array> {
  const { song, undo, redo } = history;
  const editsOf = (steps: readonly Step[]) => steps.map((s) => s.edit);
  const files: { path: string; bytes: Uint8Array; level: 0 | 6 }[] = [
    { path: SONG, bytes: strToU8(toJson(song)), level: 6 },
  ];
  if (withHistory) {
    const steps: z.infer<typeof HistorySchema> = { undo: editsOf(undo), redo: editsOf(redo) };
    files.push({ path: HISTORY, bytes: strToU8(toJson(steps)), level: 6 });
  }
  const named = sounds.map(({ file, name, bytes }) => ({ file, name, path: `sounds/${file}`, bytes }));
  // Sound hardly becomes smaller, and takes long to try.
  files.push(...named.map(({ path, bytes }) => ({ path, bytes, level: 0 as const })));
  const about: z.infer<typeof AboutSchema> = {
    kind: 'early-sparrow-song',
    version: SONG_FILE_VERSION,
    name: song.name,
    entries: await Promise.all(
      files.map(async ({ path, bytes }) => ({ path, size: bytes.length, sha256: await digest(bytes) })),
    ),
    sounds: named.map(({ file, name, path }) => ({ file, name, path })),
  };
  const zip: Zippable = { [ABOUT]: strToU8(toJson(about)) };
  for (const { path, bytes, level } of files) zip[path] = [bytes, { level }];
  // A date would make two files of one song differ.
  return zipSync(zip, { mtime: new Date(1980, 0, 1) });
}

/**
 * Reads a song file. What is damaged or cut off is left out and told, as long as the song itself is whole.
 * @throws SongFileError
 */
export async function readSongFile(bytes: Uint8Array): Promise<ReadSongFile> {
  const zip = unzip(bytes);
  const about = readAbout(zip);
  const whole = async (path: string): Promise<Uint8Array | null> => {
    const entry = about.entries.find((e) => e.path === path);
    const found = zip.entries.get(path);
    return entry && found && found.length === entry.size && (await digest(found)) === entry.sha256 ? found : null;
  };
  const song = readSongJson(await whole(SONG), zip);
  const notices: string[] = [];
  if (zip.cutOff) notices.push('The file is cut off. The song in it is whole.');
  const history = await readHistory(song, about, whole, notices);
  const sounds: SoundFile[] = [];
  for (const { file, name, path } of about.sounds) {
    const sound = await whole(path);
    // The song names a sound file by what is in it.
    if (sound && (await digest(sound)) === file) sounds.push({ file, name, bytes: sound });
    else notices.push(`The sound file “${name}” in it is damaged or missing, so that part is silent.`);
  }
  return { history, sounds, notices };
}

function readAbout(zip: Unzipped): z.infer<typeof AboutSchema> {
  const bytes = zip.entries.get(ABOUT);
  if (!bytes) {
    if (zip.cutOff) throw new SongFileError('cut-off', 'It is cut off right at its start.');
    throw new SongFileError('not-song', 'It is a zip file, but no song of Early Sparrow is in it.');
  }
  const value = parsed(bytes);
  const { kind, version } = (value ?? {}) as { kind?: unknown; version?: unknown };
  if (kind !== 'early-sparrow-song') throw new SongFileError('not-song', 'No song of Early Sparrow is in it.');
  if (typeof version === 'number' && version > SONG_FILE_VERSION) {
    throw new SongFileError('newer', 'A newer version of Early Sparrow wrote it.');
  }
  const about = AboutSchema.safeParse(value);
  if (!about.success) throw new SongFileError('damaged', 'Its list of contents is damaged.');
  return about.data;
}

function readSongJson(bytes: Uint8Array | null, zip: Unzipped): Song {
  if (!bytes) {
    if (zip.cutOff) throw new SongFileError('cut-off', 'It is cut off before the song in it ends.');
    throw new SongFileError('damaged', 'The song in it is damaged.');
  }
  try {
    return readSong(parsed(bytes));
  } catch (error) {
    if (!(error instanceof SongFormatError)) throw error;
    if (error.path === 'version') throw new SongFileError('newer', 'A newer version of Early Sparrow wrote it.');
    throw new SongFileError('damaged', `The song in it is damaged: ${error.message}.`);
  }
}

async function readHistory(
  song: Song,
  { entries }: z.infer<typeof AboutSchema>,
  whole: (path: string) => Promise<Uint8Array | null>,
  notices: string[],
): Promise<History> {
  const start = startHistory(song);
  if (!entries.some((e) => e.path === HISTORY)) return start;
  const bytes = await whole(HISTORY);
  const steps = HistorySchema.safeParse(bytes && parsed(bytes));
  if (!steps.success) {
    notices.push('Its history is damaged or missing: earlier steps cannot be undone.');
    return start;
  }
  return { ...start, undo: readableSteps(steps.data.undo), redo: readableSteps(steps.data.redo) };
}

/** Undefined where it is no JSON. */
function parsed(bytes: Uint8Array): unknown {
  try {
    return fromJson(strFromU8(bytes));
  } catch {
    return undefined;
  }
}
