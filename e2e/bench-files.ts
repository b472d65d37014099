import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { chromium } from '@playwright/test';
import { asPlayed } from '@early-sparrow/core/performance';
import { readSmf, writeSmf } from '@early-sparrow/core/smf';
import { dropFiles } from './hands';
import { openSongs } from './support';

/**
 * Prints how long many files take on their page and on the command line, in turns, each with what fits each file. Run it
 * with the server up: `npm run bench:files -- 1000`. It measures; it does not judge.
 */
const url = process.env['DESK_URL'] ?? 'http://localhost:4600';
const count = Number(process.argv[2] ?? 1000);
const TURNS = 2;
const BARS = 8;
const BAR = 3840;

const root = mkdtempSync(join(tmpdir(), 'early-sparrow-files-'));
const folder = join(root, 'takes');
const paths = takes();

/** Stretches of the demo's tracks, each a file of its own; no two alike. */
function takes(): string[] {
  mkdirSync(folder);
  const { song } = readSmf(readFileSync('app/public/demo/night-ferry.mid'), 'Night Ferry');
  const tracks = song.tracks.filter((t) => t.parts.some((p) => p.notes.length > 0));
  return Array.from({ length: count }, (_, i) => {
    const track = tracks[i % tracks.length];
    const from = (3 + (i % 17)) * BAR;
    const parts = track.parts.map((part) => {
      const notes = part.notes.filter((n) => n.start >= from && n.start < from + BARS * BAR);
      return { ...part, notes: notes.map((n) => ({ ...n, velocity: 1 + ((n.velocity + i) % 127) })), events: [] };
    });
    const one = { ...song, tracks: [{ ...track, parts }] };
    const path = join(folder, `Take ${String(i + 1).padStart(4, '0')}.mid`);
    writeFileSync(path, writeSmf(one, asPlayed(one)));
    return path;
  });
}

async function onPage(): Promise<number> {
  const browser = await chromium.launch({
    executablePath: '/usr/bin/chromium',
    args: ['--no-sandbox', '--disable-gpu'],
  });
  const page = await browser.newPage({ baseURL: url, viewport: { width: 1280, height: 800 } });
  await openSongs(page);
  await page.getByRole('link', { name: 'Many files' }).click();
  await page.getByText('Drop MIDI files or folders here.').waitFor();
  const begin = performance.now();
  await dropFiles(page, [folder]);
  await page.getByText(new RegExp(`^${count} files`)).waitFor({ timeout: 3_600_000 });
  const took = performance.now() - begin;
  await browser.close();
  return took;
}

function onCommandLine(turn: number): number {
  const begin = performance.now();
  const out = join(root, `out ${turn}`);
  execFileSync(
    process.execPath,
    ['tools/timing.mjs', 'correct', ...paths, '--grid', 'auto', '--lag', 'auto', '--out', out],
    { stdio: 'ignore' },
  );
  return performance.now() - begin;
}

// Bundled beforehand: only the work counts.
execFileSync(process.execPath, ['tools/timing.mjs', '--help'], { stdio: 'ignore' });

for (let turn = 0; turn < TURNS; turn++) {
  const [page, line] = [await onPage(), onCommandLine(turn)];

  console.log(
    `${count} files: page ${(page / 1000).toFixed(1)} s, command line ${(line / 1000).toFixed(1)} s: ${(line / page).toFixed(2)} of its rate`,
  );
}
rmSync(root, { recursive: true });
