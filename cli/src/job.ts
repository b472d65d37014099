import { readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import type { Recipe } from '@early-sparrow/core/recipe';
import { correctFile, summary, type TrackCorrection } from './correct';

/** One file to correct. Plain data, so that it can go to a worker. */
export interface Job {
  readonly input: string;
  readonly output: string;
  readonly recipe: Recipe;
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
    bytes = readFileSync(job.input);
  } catch (error) {
    return failed(readingFault(error));
  }
  try {
    const done = correctFile(job.input, bytes, job.recipe, job.only, job.full);
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

/** Writes a file whole or not at all. @param force whether one that is there is replaced */
export function writeWhole(path: string, data: Uint8Array | string, force: boolean): void {
  if (!force) {
    // `wx` refuses a file that is there, without a moment between looking and writing.
    writeFileSync(path, data, { flag: 'wx' });
    return;
  }
  const part = `${path}.${process.pid}.part`;
  try {
    writeFileSync(part, data);
    renameSync(part, path);
  } catch (error) {
    rmSync(part, { force: true });
    throw error;
  }
}

/** Why a file cannot be read, in a plain sentence. */
export function readingFault(error: unknown): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT' || code === 'ENOTDIR') return 'there is no such file.';
  if (code === 'EISDIR') return 'this is a folder; name the files in it.';
  if (code === 'EACCES' || code === 'EPERM') return 'the system does not allow to read it.';
  return message;
}

/** Why a file cannot be written, in a plain sentence. */
export function writingFault(error: unknown, path: string): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'EEXIST') return `${path} is there already; add --force to replace it.`;
  if (code === 'ENOENT') return `the folder ${dirname(path)} is not there; create it first.`;
  if (code === 'ENOTDIR') return `${dirname(path)} is a file, not a folder; choose another place.`;
  if (code === 'EISDIR') return `${path} is a folder; name a file in it.`;
  if (code === 'EACCES' || code === 'EPERM' || code === 'EROFS') return `the system does not allow to write ${path}.`;
  if (code === 'ENOSPC') return `the disk is full; ${path} was not written.`;
  return message;
}
