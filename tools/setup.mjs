// Installs what is missing. Needs nothing but Node and npm.
import { spawn } from 'node:child_process';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { createHash } from 'node:crypto';
import { dirname, join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = resolve(dirname(fileURLToPath(import.meta.url)), '..');

/** Debian packages that tests use, each with a file or command that shows it is there. */
const DEBIAN = [
  ['chromium', '/usr/bin/chromium'],
  ['firefox-esr', '/usr/bin/firefox-esr'],
  ['midicsv', '/usr/bin/midicsv'],
  ['aubio-tools', '/usr/bin/aubioonset'],
  ['sox', '/usr/bin/sox'],
  ['abcmidi', '/usr/bin/midi2abc'],
  ['python3-mido', '/usr/lib/python3/dist-packages/mido'],
  ['openttd-openmsx', '/usr/share/games/openttd/baseset/openmsx'],
  ['planetblupi-music-midi', '/usr/share/planetblupi/music'],
];

/** Installs the npm packages of the lock file, unless they are there already. */
export async function installPackages() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19)) {
    fail(`Node ${process.versions.node} is too old. Install Node 20.19 or newer and start again.`);
  }
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  const mark = join(root, 'node_modules/.early-sparrow-lock');
  if (existsSync(mark) && readFileSync(mark, 'utf8') === lock) return;
  console.error('Installing packages …');
  const npm = process.platform === 'win32' ? 'npm.cmd' : 'npm';
  const status = await ended(npm, ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: ['ignore', 2, 2],
    shell: process.platform === 'win32',
  });
  if (status !== 0)
    fail('The packages could not be installed. Check the connection to the npm registry and start again.');
  writeFileSync(mark, lock);
}

/** Installs the Debian packages that tests use. */
export async function installTestPrograms() {
  const missing = DEBIAN.filter(([, path]) => !existsSync(path)).map(([name]) => name);
  if (missing.length === 0) return;
  const list = missing.join(' ');
  const isRoot = process.getuid?.() === 0;
  if (!existsSync('/usr/bin/apt-get')) {
    fail(
      `The tests need ${list}. This system has no apt-get: install them in its own way, with Chromium at /usr/bin/chromium.`,
    );
  }
  console.error(`Installing ${list} …`);
  const apt = async (...args) => {
    const [command, ...rest] = isRoot ? ['apt-get', ...args] : ['sudo', '-n', 'apt-get', ...args];
    const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
    return (await ended(command, rest, { stdio: ['ignore', 'ignore', 'inherit'], env })) === 0;
  };
  const done =
    (await apt('update', '-qq')) && (await apt('install', '-y', '-qq', '--no-install-recommends', ...missing));
  if (!done) fail(`The tests need ${list}, which could not be installed. Run: sudo apt-get install ${list}`);
}

/** Runs a program to its end, and gives its exit code; 1 where it could not be started. */
function ended(command, args, options) {
  return new Promise((done) => {
    const child = spawn(command, args, options);
    child.on('error', () => done(1));
    child.on('close', (status) => done(status ?? 1));
  });
}

function fail(text) {
  console.error(text);
  process.exit(1);
}

if (process.argv[1] && resolve(process.argv[1]) === fileURLToPath(import.meta.url)) {
  // Beside each other: both wait for the network most of the time.
  await Promise.all([installPackages(), installTestPrograms()]);
}
