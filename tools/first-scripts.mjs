// The scripts of a built application that are needed at the start.
import { readdirSync } from 'node:fs';
import { build } from 'esbuild';

/** What is shown or done first, whatever is asked for: scripts that are not part of the program's first one. */
const FIRST = /^(desk-page|songs-page|first-visit)-[\w-]+\.js$/;

/**
 * The scripts of the pages, and all that they import from the start with them; by name.
 * @param app folder of the built application
 */
export async function firstScripts(app) {
  const entries = readdirSync(app).filter((name) => FIRST.test(name));
  if (entries.length !== 3) throw new Error(`Scripts of three pages were expected in ${app}: ${entries.join(', ')}`);
  return { entries, scripts: await scriptsOf(app, entries) };
}

/** Some scripts and all that they import from the start, by name. */
async function scriptsOf(app, entries) {
  const { metafile } = await build({
    absWorkingDir: app,
    entryPoints: entries,
    bundle: true,
    splitting: true,
    format: 'esm',
    outdir: 'unwritten',
    write: false,
    metafile: true,
    logLevel: 'error',
  });
  const found = new Set();
  const add = (script) => {
    if (found.has(script)) return;
    found.add(script);
    for (const { path, kind } of metafile.inputs[script].imports) if (kind === 'import-statement') add(path);
  };
  entries.forEach(add);
  return [...found];
}
