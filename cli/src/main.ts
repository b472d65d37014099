import { existsSync } from 'node:fs';
import { parseArgs } from 'node:util';
import { GridTextError } from '@early-sparrow/core/grid';
import { RecipeFileError } from '@early-sparrow/core/recipe';
import { RuleFileError } from '@early-sparrow/core/rules';
import { GrooveFileError } from '@early-sparrow/core/smf';
import { analyseFile, table } from './analyse';
import { fitFile, FIT_FLAGS } from './fit';
import { helpFor } from './help';
import {
  isSameFile,
  MOST_MIDI,
  readingFault,
  readInput,
  writeWhole,
  writingFault,
  type Job,
  type Outcome,
} from './job';
import { plain } from './plain';
import { hitsFile, HITS_FLAGS } from './hits';
import { planOutputs } from './plan';
import { runAll } from './pool';
import { loadRules, recipeFromFlags, TREATMENT_FLAGS } from './recipe';
import { renderFile, RENDER_FLAGS } from './render';
import { readWhole, UsageError } from './units';

/** Exit codes for scripts. */
const DONE = 0;
const SOME_FAILED = 1;
const NOT_UNDERSTOOD = 2;
const INTERRUPTED = 130;

const tell = (text: string) => process.stderr.write(`${plain(text)}\n`);
const write = (text: string) => process.stdout.write(`${plain(text)}\n`);

async function main(args: readonly string[]): Promise<number> {
  const [command, ...rest] = args;
  if (command === undefined || rest.includes('--help') || ['--help', '-h', 'help'].includes(command)) {
    process.stdout.write(helpFor(process.argv[1]));
    return command === undefined ? NOT_UNDERSTOOD : DONE;
  }
  if (command === 'analyse') return analyse(rest);
  if (command === 'correct') return correct(rest);
  if (command === 'fit' || command === 'render' || command === 'hits') return one(command, rest);
  throw new UsageError(
    `There is no command “${command}”. Write analyse, correct, fit, render or hits; --help shows how.`,
  );
}

function analyse(args: string[]): number {
  const { values, positionals } = parseArgs({ args, allowPositionals: true, options: { json: { type: 'boolean' } } });
  if (positionals.length === 0) throw new UsageError('Name one or more MIDI files to analyse.');
  const json = values.json ?? (positionals.length === 1 && !process.stdout.isTTY);
  let failed = 0;
  for (const file of positionals) {
    try {
      const { document, notices } = analyseFile(file, readInput(file, MOST_MIDI));
      for (const notice of notices) tell(`${file}: ${notice}`);
      write(json ? JSON.stringify(document) : table(document));
    } catch (error) {
      failed++;
      tell(`${file}: ${readingFault(error)}`);
    }
  }
  return failed > 0 ? SOME_FAILED : DONE;
}

/** Commands that take one file, with their flags. */
const ONE = {
  fit: { flags: FIT_FLAGS, what: 'MIDI file to fit a tempo to' },
  render: { flags: RENDER_FLAGS, what: 'MIDI file to render' },
  hits: { flags: HITS_FLAGS, what: 'WAV file to find the hits of' },
} as const;

/** One take at a time: each has its own beats to be looked at, or its own sound to be heard. */
async function one(command: keyof typeof ONE, args: string[]): Promise<number> {
  const text = { type: 'string' } as const;
  const { flags, what } = ONE[command];
  const { values, positionals } = parseArgs({
    args,
    allowPositionals: true,
    options: {
      ...(Object.fromEntries(flags.map((f) => [f, text])) as Record<(typeof flags)[number], typeof text>),
      ...(command === 'render' ? { click: { type: 'boolean' } as const } : {}),
      downbeat: { type: 'string', multiple: true },
      out: text,
      force: { type: 'boolean' },
    },
  });
  if (command !== 'fit' && values.downbeat) throw new UsageError('--downbeat is for fit alone.');
  const [file] = positionals;
  if (positionals.length !== 1) throw new UsageError(`Name one ${what}.`);
  if (!values.out) throw new UsageError('Say where to write with --out FILE.');
  if (isSameFile(file, values.out)) throw new UsageError(`${file} would be written over. Choose another --out.`);
  let done;
  try {
    const bytes = readInput(file, command === 'hits' ? undefined : MOST_MIDI);
    if (command === 'fit') done = fitFile(file, bytes, values);
    else if (command === 'hits') done = hitsFile(file, bytes, values);
    else done = await renderFile(file, bytes, { ...values, click: values.click === true });
  } catch (error) {
    if (error instanceof UsageError) throw error;
    tell(`${file}: ${readingFault(error)}`);
    return SOME_FAILED;
  }
  try {
    writeWhole(values.out, done.bytes, values.force ?? false);
  } catch (error) {
    tell(`${file}: ${writingFault(error, values.out)}`);
    return SOME_FAILED;
  }
  for (const notice of done.notices) tell(`${file}: ${notice}`);
  write(`${file} → ${values.out}\n  ${done.text}`);
  return DONE;
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
      rule: { type: 'string', multiple: true },
      out: text,
      tracks: text,
      report: text,
      force: { type: 'boolean' },
    },
  });
  if (positionals.length === 0) throw new UsageError('Name one or more MIDI files to correct.');
  if (!values.out) throw new UsageError('Say where to write with --out FILE, or --out FOLDER for several files.');
  const recipe = recipeFromFlags(values);
  const rules = loadRules(values.rule ?? []);
  const only = values.tracks ? values.tracks.split(',').map((t) => readWhole(t.trim(), 0, 65535, 'tracks')) : null;
  const { out, report } = values;
  const planned = planOutputs(positionals, out, report);
  const force = values.force ?? false;
  if (report !== undefined && !force && existsSync(report)) {
    throw new UsageError(`${report} already exists. Add --force to replace it.`);
  }
  const jobs = planned.map((p): Job => ({ ...p, recipe, rules, only, full: report !== undefined, force }));
  const outcomes = await runBatch(jobs);
  let failed = 0;
  for (const [i, outcome] of outcomes.entries()) {
    if (!outcome?.ok) {
      failed++;
      tell(outcome ? `${outcome.input}: ${outcome.reason}` : `${jobs[i].input}: not started.`);
      continue;
    }
    for (const notice of outcome.notices) tell(`${outcome.input}: ${notice}`);
    write(outcome.text);
  }
  if (outcomes.includes(undefined)) {
    tell(`Stopped: ${outcomes.filter((o) => o?.ok).length} of ${jobs.length} files were written.`);
    return INTERRUPTED;
  }
  if (report !== undefined) {
    const files = outcomes.flatMap((o) => (o?.ok ? [{ file: o.input, output: o.output, tracks: o.tracks }] : []));
    try {
      writeWhole(report, `${JSON.stringify({ recipe, files }, null, 1)}\n`, force);
    } catch (error) {
      tell(`--report: ${writingFault(error, report)} The MIDI files were written.`);
      return SOME_FAILED;
    }
  }
  return failed > 0 ? SOME_FAILED : DONE;
}

/** Runs the jobs; an interrupt lets those under way finish, a second one ends at once. */
async function runBatch(jobs: readonly Job[]): Promise<(Outcome | undefined)[]> {
  const stop = new AbortController();
  const interrupted = () => {
    if (stop.signal.aborted) process.exit(INTERRUPTED);
    stop.abort();
    tell('Stopping: files in progress are finished first. Press again to stop at once.');
  };
  process.on('SIGINT', interrupted);
  const progress = (done: number) => {
    if (process.stderr.isTTY) process.stderr.write(`\r${done} of ${jobs.length} files`);
  };
  try {
    return await runAll(jobs, { progress, stop: stop.signal }, new URL('./worker.mjs', import.meta.url));
  } finally {
    process.off('SIGINT', interrupted);
    if (jobs.length > 1 && process.stderr.isTTY) tell('');
  }
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
  error instanceof RuleFileError ||
  error instanceof GrooveFileError ||
  (error as { code?: string }).code?.startsWith('ERR_PARSE_ARGS');

try {
  process.exitCode = await main(process.argv.slice(2));
} catch (error) {
  if (!isUsage(error)) throw error;
  tell((error as Error).message);
  process.exitCode = NOT_UNDERSTOOD;
}
