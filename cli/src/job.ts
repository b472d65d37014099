import {
  closeSync,
  constants,
  copyFileSync,
  fsyncSync,
  linkSync,
  openSync,
  readFileSync,
  readSync,
  renameSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs';
import { dirname, resolve } from 'node:path';
import { correctFile, summary, type TrackCorrection } from '@early-sparrow/core/batch';
import type { Recipe } from '@early-sparrow/core/recipe';
import type { Rule } from '@early-sparrow/core/rules';

/** One file to correct. Plain data, so that it can go to a worker. */
export interface Job {
  readonly input: string;
  readonly output: string;
  readonly recipe: Recipe;
  /** What is done to the notes before. */
  readonly rules?: readonly Rule[];
  readonly only: readonly number[] | null;
  readonly full: boolean;
  readonly force: boolean;
}

export type Outcome =
  | {
      readonly ok: true;
      readonly input: string;
      readonly output: string;
      readonly text: string;
      readonly notices: readonly string[];
      readonly tracks: readonly TrackCorrection[];
    }
  | { readonly ok: false; readonly input: string; readonly reason: string };

/** Reads, corrects and writes one file; a fault becomes an outcome, so that others go on. */
export function runJob(job: Job): Outcome {
  const failed = (reason: string): Outcome => ({ ok: false, input: job.input, reason });
  let bytes: Uint8Array;
  try {
    bytes = readInput(job.input, MOST_MIDI);
  } catch (error) {
    return failed(readingFault(error));
  }
  try {
    const done = correctFile(job.input, bytes, job);
    try {
      writeWhole(job.output, done.bytes, job.force);
    } catch (error) {
      return failed(writingFault(error, job.output));
    }
    const text = summary(`${job.input} → ${job.output}`, done);
    return { ok: true, input: job.input, output: job.output, text, notices: done.notices, tracks: done.tracks };
  } catch (error) {
    return failed((error as Error).message);
  }
}

/**
 * Writes a file whole or not at all: under a name of its own first, which then becomes the wanted one in one step. A
 * program that is ended in between leaves nothing under that.
 * @param force whether one that is there is replaced
 */
export function writeWhole(path: string, data: Uint8Array | string, force: boolean): void {
  const part = `${path}.${process.pid}.part`;
  try {
    const file = openSync(part, 'wx');
    try {
      writeFileSync(file, data);
      fsyncSync(file);
    } finally {
      closeSync(file);
    }
    if (force) renameSync(part, path);
    else linkNew(part, path);
  } finally {
    rmSync(part, { force: true });
  }
}

/** Gives a file a further name, which refuses one that is there without a moment between looking and writing. */
function linkNew(part: string, path: string): void {
  try {
    linkSync(part, path);
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    if (code !== 'EPERM' && code !== 'ENOTSUP' && code !== 'ENOSYS') throw error;
    // A disk without such names.
    copyFileSync(part, path, constants.COPYFILE_EXCL);
  }
}

/** No file that is read here is larger: a MIDI file of 16 MB is refused by its reader, a sound file is longer. */
const MOST_BYTES = 2 ** 30;

/**
 * Reads a file of at most a GB; what has no end, such as a device, is read up to there and refused.
 * @throws what the system says, or an error with the code ETOOLARGE
 */
export function readInput(path: string, most = MOST_BYTES): Uint8Array {
  if (statSync(path).isFile()) {
    if (statSync(path).size > most) throw new TooLarge();
    return readFileSync(path);
  }
  const file = openSync(path, 'r');
  try {
    const chunks: Uint8Array[] = [];
    let size = 0;
    for (;;) {
      const chunk = new Uint8Array(1 << 16);
      const read = readSync(file, chunk);
      if (read === 0) return Buffer.concat(chunks);
      size += read;
      if (size > most) throw new TooLarge();
      chunks.push(chunk.subarray(0, read));
    }
  } finally {
    closeSync(file);
  }
}

class TooLarge extends Error {
  readonly code = 'ETOOLARGE';
}

/** MIDI files are smaller than this. */
export const MOST_MIDI = 16_000_001;

/** Whether two paths name one file, through links too. */
export function isSameFile(a: string, b: string): boolean {
  if (resolve(a) === resolve(b)) return true;
  try {
    const [one, other] = [statSync(a), statSync(b)];
    return one.dev === other.dev && one.ino === other.ino;
  } catch {
    return false;
  }
}

/** Why a file cannot be read, in a plain sentence. */
export function readingFault(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ETOOLARGE') return 'this is larger than any file that is read here, or never ends.';
  if (code === 'ENOENT' || code === 'ENOTDIR') return 'there is no such file.';
  if (code === 'EISDIR') return 'this is a folder; name the files in it.';
  if (code === 'EACCES' || code === 'EPERM') return 'the system does not allow reading it.';
  return message;
}

/** Why a file cannot be written, in a plain sentence. */
export function writingFault(error: unknown, path: string): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'EEXIST') return `${path} already exists. Add --force to replace it.`;
  if (code === 'ENOENT') return `the folder ${dirname(path)} does not exist. Create it first.`;
  if (code === 'ENOTDIR') return `${dirname(path)} is a file, not a folder; choose another place.`;
  if (code === 'EISDIR') return `${path} is a folder; name a file in it.`;
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') return `the system does not allow writing ${path}.`;
  if (code === 'ENOSPC') return `the disk is full; ${path} was not written.`;
  return message;
}
