import { readFileSync, writeFileSync } from 'node:fs';
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
  try {
    const done = correctFile(job.input, readFileSync(job.input), job.recipe, job.only, job.full);
    // `wx` refuses a file that is there, without a moment between looking and writing.
    writeFileSync(job.output, done.bytes, { flag: job.force ? 'w' : 'wx' });
    const text = summary(`${job.input} → ${job.output}`, done);
    return { ok: true, input: job.input, output: job.output, text, notices: done.notices, tracks: done.tracks };
  } catch (error) {
    return { ok: false, input: job.input, reason: reasonOf(error, job.output) };
  }
}

/** A fault in a plain sentence. */
export function reasonOf(error: unknown, output = ''): string {
  const { code, message } = error as NodeJS.ErrnoException;
  if (code === 'ENOENT') return 'there is no such file.';
  if (code === 'EISDIR') return 'this is a folder; name the files in it.';
  if (code === 'EEXIST') return `${output} is there already; add --force to replace it.`;
  if (code === 'EACCES') return 'the system does not allow it.';
  return message;
}
