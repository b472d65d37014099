// Builds the application and the server, each only when its sources changed.
import { spawnSync } from 'node:child_process';
import { copyFileSync, existsSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');

/** Builds what is not up to date. Ends the program where a build fails. */
export async function build() {
  const mark = join(root, 'dist/app/.built');
  const inputs = [
    'app/src',
    'app/public',
    'core/src',
    'app/angular.json',
    'app/ngsw-config.json',
    'docs/guide.md',
    'app/tsconfig.app.json',
    'package-lock.json',
  ];
  if (!existsSync(mark) || inputs.some((input) => newest(join(root, input)) > statSync(mark).mtimeMs)) {
    console.log('Building the application …');
    const ng = join(root, 'node_modules/@angular/cli/bin/ng.js');
    const done = spawnSync(process.execPath, [ng, 'build'], {
      cwd: join(root, 'app'),
      stdio: 'inherit',
      // Small chunks that are always asked for together become one.
      env: { ...process.env, NG_CLI_ANALYTICS: 'false', NG_BUILD_OPTIMIZE_CHUNKS: 'true' },
    });
    if (done.status !== 0) process.exit(done.status ?? 1);
    const { soundFiles } = await import('./sound-files.mjs');
    await soundFiles(root, join(root, 'dist/app'));
    copyFileSync(join(root, 'docs/guide.md'), join(root, 'dist/app/guide.md'));
    run('tools/run-ts.mjs', 'tools/schemas.ts', 'dist/app/song-file.schema.json');
    const { mergeChunks } = await import('./merge-chunks.mjs');
    await mergeChunks(join(root, 'dist/app'));
    const { preloadPages } = await import('./preload.mjs');
    await preloadPages(join(root, 'dist/app'));
    offlineFiles(join(root, 'dist/app'));
    const { compressFiles } = await import('./compress.mjs');
    await compressFiles(join(root, 'dist/app'));
    writeFileSync(mark, '');
  }
  const { bundle } = await import('./run-ts.mjs');
  return bundle('server/src/main.ts');
}

/** The service worker, and the list of what it keeps: made once everything else is there. */
function offlineFiles(app) {
  const worker = join(root, 'node_modules/@angular/service-worker');
  copyFileSync(join(worker, 'ngsw-worker.js'), join(app, 'ngsw-worker.js'));
  run(join(worker, 'ngsw-config.js'), 'dist/app', 'app/ngsw-config.json');
}

/** Runs a program of Node's. Ends this one where that fails. */
function run(...args) {
  const done = spawnSync(process.execPath, args, { cwd: root, stdio: 'inherit' });
  if (done.status !== 0) process.exit(done.status ?? 1);
}

/** Time of the last change below a path. */
function newest(path) {
  const stat = statSync(path);
  if (!stat.isDirectory()) return stat.mtimeMs;
  return readdirSync(path).reduce((latest, name) => Math.max(latest, newest(join(path, name))), stat.mtimeMs);
}

if (process.argv[1] && resolve(process.argv[1]) === fileURLToPath(import.meta.url)) await build();
