import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { parseArgs } from 'node:util';
import { GridTextError } from '@early-sparrow/core/grid';
import { RecipeFileError } from '@early-sparrow/core/recipe';
import { GrooveFileError } from '@early-sparrow/core/smf';
import { analyseFile, table } from './analyse';
import { HELP } from './help';
import { reasonOf, type Job } from './job';
import { runAll } from './pool';
import { recipeFromFlags, TREATMENT_FLAGS } from './recipe';
import { readWhole, UsageError } from './units';

/** Exit codes for scripts. */
const DONE = 0;
const SOME_FAILED = 1;
const NOT_UNDERSTOOD = 2;

const tell = (text: string) => process.stderr.write(`${text}\n`);

async function main(args: readonly string[]): Promise<number> {
  const [command, ...rest] = args;
  if (command === undefined || rest.includes('--help') || ['--help', '-h', 'help'].includes(command)) {
    process.stdout.write(HELP);
    return command === undefined ? NOT_UNDERSTOOD : DONE;
  }
  if (command === 'analyse') return analyse(rest);
  if (command === 'correct') return correct(rest);
  throw new UsageError(`There is no command “${command}”. Write analyse or correct; --help shows how.`);
}

function analyse(args: string[]): number {
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { json: { type: 'boolean' } } });
  if (positionals.length === 0) throw new UsageError('Name one or more MIDI files to analyse.');
  const json = values.json ?? (positionals.length === 1 && !process.stdout.isTTY);
  let failed = 0;
  for (const file of positionals) {
    try {
      const { document, notices } = analyseFile(file, readFileSync(file));
      for (const notice of notices) tell(`${file}: ${notice}`);
      process.stdout.write(`${json ? JSON.stringify(document) : table(document)}\n`);
    } catch (error) {
      failed++;
      tell(`${file}: ${reasonOf(error)}`);
    }
  }
  return failed > 0 ? SOME_FAILED : DONE;
}

async function correct(args: string[]): Promise<number> {
  const text = { type: 'string' } as const;
  const { values, positionals } = parseArgs({
    args: joinNegatives(args),
    allowPositionals: true,
    options: {
      ...(Object.fromEntries(TREATMENT_FLAGS.map((f) => [f, text])) as Record<
        (typeof TREATMENT_FLAGS)[number],
        typeof text
      >),
      out: text,
      tracks: text,
      report: text,
      force: { type: 'boolean' },
    },
  });
  if (positionals.length === 0) throw new UsageError('Name one or more MIDI files to correct.');
  if (!values.out) throw new UsageError('Say where to write with --out FILE, or --out FOLDER for several files.');
  const recipe = recipeFromFlags(values);
  const only = values.tracks ? values.tracks.split(',').map((t) => readWhole(t.trim(), 0, 65535, 'tracks')) : null;
  const folder = positionals.length > 1 || (existsSync(values.out) && statSync(values.out).isDirectory());
  if (folder) mkdirSync(values.out, { recursive: true });
  const force = values.force ?? false;
  if (values.report && !force && existsSync(values.report)) {
    throw new UsageError(`${values.report} is there already; add --force to replace it.`);
  }
  const { out } = values;
  const jobs = positionals.map((input): Job => ({
    input,
    output: folder ? join(out, basename(input)) : out,
    recipe,
    only,
    full: values.report !== undefined,
    force,
  }));
  const outcomes = await runAll(jobs, (done) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${done} of ${jobs.length} files`);
  });
  if (jobs.length > 1 && process.stderr.isTTY) tell('');
  let failed = 0;
  for (const outcome of outcomes) {
    if (!outcome.ok) {
      failed++;
      tell(`${outcome.input}: ${outcome.reason}`);
      continue;
    }
    for (const notice of outcome.notices) tell(`${outcome.input}: ${notice}`);
    process.stdout.write(`${outcome.text}\n`);
  }
  if (values.report) {
    const files = outcomes.flatMap((o) => (o.ok ? [{ file: o.input, output: o.output, tracks: o.tracks }] : []));
    writeFileSync(values.report, `${JSON.stringify({ recipe, files }, null, 1)}\n`);
  }
  return failed > 0 ? SOME_FAILED : DONE;
}

/** `--push -5ms`: a value that begins with a minus would be read as a flag. */
function joinNegatives(args: readonly string[]): string[] {
  const joined: string[] = [];
  for (const arg of args) {
    const last = joined.at(-1);
    if (/^-\d/.test(arg) && last?.startsWith('--') && !last.includes('=')) joined[joined.length - 1] = `${last}=${arg}`;
    else joined.push(arg);
  }
  return joined;
}

const isUsage = (error: unknown) =>
  error instanceof UsageError ||
  error instanceof GridTextError ||
  error instanceof RecipeFileError ||
  error instanceof GrooveFileError ||
  (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS');

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  if (!isUsage(error)) throw error;
  tell((error as Error).message);
  process.exitCode = NOT_UNDERSTOOD;
}
