// The TypeScript compiler by which types are checked and written. The one in node_modules/typescript, four times as slow, is
// what Angular, ESLint and ts-jest are made for.
import { spawnSync } from 'node:child_process';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');

/** Runs it with the arguments of `tsc`, and gives its exit status. */
export function tsc(...args) {
  const compiler = join(root, 'node_modules/typescript-native/bin/tsc');
  return spawnSync(process.execPath, [compiler, ...args], { cwd: root, stdio: 'inherit' }).status ?? 1;
}

if (process.argv[1] && resolve(process.argv[1]) === fileURLToPath(import.meta.url)) {
  process.exit(tsc(...process.argv.slice(2)));
}
