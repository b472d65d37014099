// npm test: set-up, then lint, types, unit tests, build and interface tests; closes with one line of counts.
import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { installPackages, installTestPrograms } from './setup.mjs';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');
const results = join(root, 'test-results');
installPackages();
installTestPrograms();
rmSync(results, { recursive: true, force: true });
mkdirSync(results, { recursive: true });

const npx = process.platform === 'win32' ? 'npx.cmd' : 'npx';
const counts = { passed: 0, failed: 0 };

/** Runs one step; a step without tests of its own counts as one. */
function step(name, command, args, count) {
  console.log(`\n— ${name}`);
  const { status } = spawnSync(command, args, { cwd: root, stdio: 'inherit' });
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
  return { passed: stats.expected + stats.flaky, failed: stats.unexpected };
};

step('Lint', 'npm', ['run', '--silent', 'lint']);
step('Types', 'npm', ['run', '--silent', 'types']);
step('Unit tests', npx, ['jest', '--maxWorkers=2', '--json', '--outputFile=test-results/unit.json'], jestCounts);
if (step('Build', process.execPath, ['tools/build.mjs'])) {
  step('Interface tests', npx, ['playwright', 'test', '-c', 'e2e/playwright.config.ts'], playwrightCounts);
}
console.log(`\n${counts.passed} passed, ${counts.failed} failed`);
process.exit(counts.failed === 0 ? 0 : 1);
