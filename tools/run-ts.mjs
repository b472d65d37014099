// Bundles a TypeScript entry when its sources are newer than the last bundle, and runs it.
import { existsSync, mkdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath, pathToFileURL } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');

/** Bundles `entry` (a path below the root) into dist/run and returns the bundle's path. */
export async function bundle(entry) {
  const out = join(root, 'dist/run', entry.replace(/\.ts$/, '.mjs'));
  const list = `${out}.inputs.json`;
  if (isFresh(out, list)) return out;
  const { build } = await import('esbuild');
  const result = await build({
    absWorkingDir: root,
    entryPoints: [entry],
    outdir: dirname(out),
    outExtension: { '.js': '.mjs' },
    bundle: true,
    // What is imported where it is needed only is not loaded before.
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    tsconfig: 'tsconfig.node.json',
    alias: coreAliases(),
    metafile: true,
    logLevel: 'warning',
  });
  mkdirSync(dirname(list), { recursive: true });
  writeFileSync(list, JSON.stringify(Object.keys(result.metafile.inputs)));
  return out;
}

function isFresh(out, list) {
  if (!existsSync(out) || !existsSync(list)) return false;
  const built = statSync(out).mtimeMs;
  return JSON.parse(readFileSync(list, 'utf8')).every((input) => {
    const path = join(root, input);
    return existsSync(path) && statSync(path).mtimeMs <= built;
  });
}

/** The core's folders as import paths: its sources are bundled, packages are not. */
export function coreAliases() {
  const { exports } = JSON.parse(readFileSync(join(root, 'core/package.json'), 'utf8'));
  const folders = ['edit', 'grid', 'groove', 'insight', 'maths', 'recipe', 'smf', 'song', 'sound', 'time', 'treatment'];
  return Object.fromEntries(
    folders.map((f) => [`@early-sparrow/core/${f}`, join(root, 'core', exports['./*'].replace('*', f))]),
  );
}

if (process.argv[1] && resolve(process.argv[1]) === fileURLToPath(import.meta.url)) {
  const [entry, ...rest] = process.argv.slice(2);
  const out = await bundle(entry);
  process.argv = [process.argv[0], out, ...rest];
  await import(pathToFileURL(out).href);
}
