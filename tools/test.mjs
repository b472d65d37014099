// npm test: set-up, then lint and unit tests beside types and build, and interface tests; closes with one line of counts.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installPackages, installTestPrograms } from './setup.mjs';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
const results = join(root, 'test-results');
// Beside each other: both wait for the network most of the time.
await Promise.all([installPackages(), installTestPrograms()]);
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

const npx = process.platform === 'win32' ? 'npx.cmd' : 'npx';
const counts = { passed: 0, failed: 0 };

/**
 * Runs one step; a step without tests of its own counts as one. Steps that run beside each other are each told when they
 * are done, so that their lines do not mix.
 */
async function step(name, command, args, { count, beside = false } = {}) {
  const said = [];
  if (!beside) console.log(`\n— ${name}`);
  const child = spawn(command, args, { cwd: root, stdio: beside ? ['ignore', 'pipe', 'pipe'] : 'inherit' });
  for (const stream of [child.stdout, child.stderr]) stream?.on('data', (text) => said.push(text));
  const status = await new Promise((done) => {
    child.on('error', ({ message }) => {
      console.error(message);
      done(1);
    });
    child.on('close', done);
  });
  if (beside) process.stdout.write(Buffer.concat([Buffer.from(`\n— ${name}\n`), ...said]));
  const { passed, failed } = count?.() ?? { passed: status === 0 ? 1 : 0, failed: status === 0 ? 0 : 1 };
  counts.passed += passed;
  counts.failed += failed;
  // A step that fails without a failed test has failed all the same.
  if (status !== 0 && failed === 0) counts.failed++;
  return status === 0;
}

const jestCounts = () => {
  const file = join(results, 'unit.json');
  if (!existsSync(file)) return { passed: 0, failed: 1 };
  const { numPassedTests, numFailedTests } = JSON.parse(readFileSync(file, 'utf8'));
  return { passed: numPassedTests, failed: numFailedTests };
};
const playwrightCounts = () => {
  const file = join(results, 'e2e.json');
  if (!existsSync(file)) return { passed: 0, failed: 1 };
  const { stats } = JSON.parse(readFileSync(file, 'utf8'));
  return { passed: stats.expected, failed: stats.unexpected };
};

const npmRun = (name) => ['run', '--silent', name];
const beside = { beside: true };
const built = async () => {
  // The types of the application itself are checked by its build.
  await step('Types', 'npm', npmRun('types'), beside);
  return step('Build', process.execPath, ['tools/build.mjs'], beside);
};
const unitTests = async () => {
  await step('Lint', 'npm', npmRun('lint'), beside);
  const jest = ['jest', '--maxWorkers=2', '--json', '--outputFile=test-results/unit.json'];
  await step('Unit tests', npx, jest, { count: jestCounts });
};
// Beside each other: the last step of the one would leave a core idle.
const [isBuilt] = await Promise.all([built(), unitTests()]);
if (isBuilt) {
  await step('Interface tests', npx, ['playwright', 'test', '-c', 'e2e/playwright.config.ts'], {
    count: playwrightCounts,
  });
}
console.log(`\n${counts.passed} passed, ${counts.failed} failed`);
process.exit(counts.failed === 0 ? 0 : 1);
