import { existsSync, mkdirSync, statSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { isSameFile, writingFault } from './job';
import { UsageError } from './units';

/** Where each input is written. */
export interface Planned {
  readonly input: string;
  readonly output: string;
}

/**
 * Decides where files go, before any is touched: nothing may be written over an input, over another output, or over
 * the report.
 * @throws UsageError
 */
export function planOutputs(inputs: readonly string[], out: string, report: string | undefined): Planned[] {
  const folder = inputs.length > 1 || isFolder(out);
  if (folder) makeFolder(out);
  const planned = inputs.map((input) => ({ input, output: folder ? join(out, basename(input)) : out }));
  const taken = new Map<string, string>();
  for (const { input, output } of planned) {
    const other = taken.get(resolve(output));
    if (other !== undefined) {
      throw new UsageError(`${other} and ${input} would both be written to ${output}. Correct them into two folders.`);
    }
    taken.set(resolve(output), input);
  }
  for (const input of inputs) {
    if (planned.some((p) => isSameFile(p.output, input)))
      throw new UsageError(`${input} would be written over. Choose another --out.`);
  }
  if (report !== undefined && (taken.has(resolve(report)) || inputs.some((i) => isSameFile(i, report)))) {
    throw new UsageError(`--report ${report} is one of the MIDI files. Choose another file for the report.`);
  }
  return planned;
}

function isFolder(path: string): boolean {
  return existsSync(path) && statSync(path).isDirectory();
}

function makeFolder(path: string): void {
  try {
    mkdirSync(path, { recursive: true });
  } catch (error) {
    const { code } = error as NodeJS.ErrnoException;
    const isFile = code === 'EEXIST' || code === 'ENOTDIR';
    throw new UsageError(
      isFile
        ? `--out ${path} is a file, or lies in one. For several files name a folder.`
        : `--out ${path} cannot be created: ${writingFault(error, path)}`,
    );
  }
}
