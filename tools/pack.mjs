// Makes the computation and the command line into packages that npm can install: dist/packages.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { build } from 'esbuild';
import { coreAliases } from './run-ts.mjs';
import { tsc } from './tsc.mjs';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
const out = join(root, 'dist/packages');
const read = (path) => JSON.parse(readFileSync(join(root, path), 'utf8'));
const COMMON = {
  absWorkingDir: root,
  bundle: true,
  format: 'esm',
  platform: 'node',
  target: 'node20',
  packages: 'external',
  alias: coreAliases(),
  tsconfig: 'tsconfig.node.json',
  logLevel: 'warning',
};

/** Packs both, and gives the paths of the two files. */
export async function pack() {
  rmSync(out, { recursive: true, force: true });
  const core = await packCore();
  const cli = await packCli();
  return { core, cli };
}

/** Each room of the core is one import of the package, with its types. */
async function packCore() {
  const folder = join(out, 'core');
  const rooms = readdirSync(join(root, 'core/src'));
  await build({
    ...COMMON,
    entryPoints: Object.fromEntries(rooms.map((room) => [`${room}/index`, `core/src/${room}/index.ts`])),
    outdir: folder,
    splitting: true,
    platform: 'neutral',
    mainFields: ['module', 'main'],
  });
  types(folder);
  const { name, version, license, dependencies } = read('core/package.json');
  return packed(folder, {
    name,
    version,
    license,
    description: 'Timing of recorded MIDI performances: read, analysed, corrected, humanized, written',
    type: 'module',
    engines: { node: '>=20.19' },
    exports: { './*': { types: './*/index.d.ts', default: './*/index.js' } },
    dependencies,
  });
}

/** The command line has the core in it. */
async function packCli() {
  const folder = join(out, 'cli');
  const banner = { js: '#!/usr/bin/env node' };
  await build({
    ...COMMON,
    entryPoints: { main: 'cli/src/main.ts' },
    outdir: folder,
    outExtension: { '.js': '.mjs' },
    splitting: true,
    banner,
  });
  await build({
    ...COMMON,
    entryPoints: { worker: 'cli/src/worker.ts' },
    outdir: folder,
    outExtension: { '.js': '.mjs' },
  });
  const core = read('core/package.json');
  const cli = read('cli/package.json');
  const { '@early-sparrow/core': _, ...own } = cli.dependencies;
  return packed(folder, {
    name: 'early-sparrow',
    version: cli.version,
    license: cli.license,
    description: 'Corrects the timing of recorded MIDI performances, on the command line',
    type: 'module',
    engines: { node: '>=20.19' },
    bin: { 'early-sparrow': 'main.mjs' },
    dependencies: { ...core.dependencies, ...own },
  });
}

/** Declarations of all rooms; imports get the endings that Node and TypeScript ask of a package. */
function types(folder) {
  const status = tsc('-p', 'core/tsconfig.pack.json', '--declaration', '--emitDeclarationOnly', '--outDir', folder);
  if (status !== 0) process.exit(status);
  for (const path of filesBelow(folder).filter((p) => p.endsWith('.d.ts'))) {
    const text = readFileSync(path, 'utf8').replace(/(from |import\()(['"])(\.[^'"]*)\2/g, (_, how, quote, to) => {
      const target = resolve(dirname(path), to);
      const isFolder = statSync(target, { throwIfNoEntry: false })?.isDirectory();
      return `${how}${quote}${to}${isFolder ? '/index' : ''}.js${quote}`;
    });
    writeFileSync(path, text);
  }
}

function packed(folder, manifest) {
  writeFileSync(join(folder, 'package.json'), `${JSON.stringify(manifest, null, 2)}\n`);
  cpSync(join(root, 'LICENSE'), join(folder, 'LICENSE'));
  mkdirSync(out, { recursive: true });
  const done = spawnSync('npm', ['pack', '--silent', '--pack-destination', out], { cwd: folder, encoding: 'utf8' });
  if (done.status !== 0) {
    console.error(done.stderr);
    process.exit(done.status ?? 1);
  }
  return join(out, done.stdout.trim().split('\n').at(-1));
}

function filesBelow(folder) {
  return readdirSync(folder, { withFileTypes: true }).flatMap((e) =>
    e.isDirectory() ? filesBelow(join(folder, e.name)) : [join(folder, e.name)],
  );
}

if (process.argv[1] && resolve(process.argv[1]) === fileURLToPath(import.meta.url)) {
  for (const path of Object.values(await pack())) console.log(path);
}
